import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import ts from 'typescript';

/** The texts of the interface as they stand in the code, by file: the keys by which languages say them. */
export function textsOfCode(root: string): Record<string, string[]> {
  const files = readdirSync(path.join(root, 'src'), { recursive: true, encoding: 'utf8' })
    .filter((file) => /\.tsx?$/.test(file) && !/\.(test|d)\.tsx?$/.test(file))
    .map((file) => path.posix.join('src', file.split(path.sep).join('/')));
  const found: Record<string, string[]> = {};
  for (const file of files.sort()) {
    const source = readFileSync(path.join(root, file), 'utf8');
    if (!source.includes('say`')) continue;
    const texts = textsOf(ts.createSourceFile(file, source, ts.ScriptTarget.Latest, true));
    if (texts.length > 0) found[file] = texts;
  }
  return found;
}

function textsOf(source: ts.SourceFile): string[] {
  const texts = new Set<string>();
  const look = (node: ts.Node) => {
    if (ts.isTaggedTemplateExpression(node) && node.tag.getText() === 'say')
      texts.add(keyOfTemplate(node.template));
    ts.forEachChild(node, look);
  };
  look(source);
  return [...texts];
}

const keyOfTemplate = (template: ts.TemplateLiteral): string =>
  ts.isNoSubstitutionTemplateLiteral(template)
    ? template.text
    : template.templateSpans.reduce(
        (key, { literal }, index) => `${key}{${index}}${literal.text}`,
        template.head.text,
      );
