/**
 * A canvas context scaled to CSS pixels for this screen; cleared, with its origin moved up by `scrollTop`.
 */
export function surface(
  canvas: HTMLCanvasElement,
  width: number,
  height: number,
  scrollTop = 0,
): CanvasRenderingContext2D | null {
  const ratio = window.devicePixelRatio || 1;
  const pixelWidth = Math.round(width * ratio);
  const pixelHeight = Math.round(height * ratio);
  if (canvas.width !== pixelWidth || canvas.height !== pixelHeight) {
    canvas.width = pixelWidth;
    canvas.height = pixelHeight;
  }
  const context = canvas.getContext('2d');
  if (!context) return null;
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  context.clearRect(0, 0, width, height);
  context.translate(0, -scrollTop);
  return context;
}
