import { createHash } from 'node:crypto';

const share = Number(process.env.MUTATED_SHARE ?? 1);

/** A statement of an outermost function, or the expression that is all of it: kept or left out whole. */
function isUnit(path) {
  const block = path.parentPath?.isBlockStatement() ? path.parentPath : null;
  const around = (block ?? path).parentPath;
  if (!around?.isFunction() || around.getFunctionParent()) return false;
  return block ? path.isStatement() : path.key === 'body' && !path.isBlockStatement();
}

/** Where it stands decides, so that a second run takes the same. */
function isLeftOut({ node: { loc } }) {
  const place = `${loc.start.line}:${loc.start.column}-${loc.end.line}:${loc.end.column}`;
  return createHash('sha1').update(place).digest().readUInt32BE(0) / 2 ** 32 >= share;
}

class Sample {
  shouldIgnore(path) {
    return share < 1 && isUnit(path) && isLeftOut(path) ? 'not in the sample' : undefined;
  }
}

export const strykerPlugins = [{ kind: 'Ignore', name: 'sample', injectableClass: Sample }];
