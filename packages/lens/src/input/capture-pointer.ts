/** Has an element hear of a pointer until it is lifted, wherever it goes. */
export function capturePointer(element: HTMLElement, pointerId: number): void {
  try {
    element.setPointerCapture(pointerId);
  } catch {
    // A pointer that is gone already cannot be captured, and needs not to be.
  }
}
