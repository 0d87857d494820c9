/** How far a wheel was turned, in CSS pixels. Lines and pages come from some mice; a line is about 16 pixels. */
export function pixelsOfWheel({ deltaX, deltaY, deltaMode }: WheelEvent): [x: number, y: number] {
  const scale = deltaMode === 0 ? 1 : deltaMode === 1 ? 16 : 400;
  return [deltaX * scale, deltaY * scale];
}
