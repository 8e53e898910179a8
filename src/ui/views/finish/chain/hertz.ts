/** A frequency for an axis or a sentence. */
export const nameHertz = (hertz: number): string =>
  hertz >= 1000 ? `${Number((hertz / 1000).toPrecision(3))}k` : `${Math.round(hertz)}`;
