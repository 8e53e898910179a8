/** What every drawing on the sheet shares. */
export const labelFont = "12px 'Atkinson Hyperlegible Next Variable', sans-serif";
export const noteFont = "italic 13px 'Literata Variable', serif";
export const signFont = "600 16px 'Literata Variable', serif";

/** Quiet sound stays visible: height follows amplitude to the power 0.6. Reaches ±1 at full scale. */
export const drawnHeight = (amplitude: number) => Math.sign(amplitude) * Math.abs(amplitude) ** 0.6;

export function line(
  context: CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D,
  x1: number,
  y1: number,
  x2: number,
  y2: number,
) {
  context.beginPath();
  context.moveTo(x1, y1);
  context.lineTo(x2, y2);
  context.stroke();
}

export function wavyLine(context: CanvasRenderingContext2D, from: number, to: number, y: number) {
  context.lineWidth = 2;
  context.beginPath();
  context.moveTo(from, y);
  for (let x = from; x < to; x += 2) context.lineTo(x, y + Math.sin(((x - from) / 9) * 2 * Math.PI) * 2.6);
  context.stroke();
}
