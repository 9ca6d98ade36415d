/**
 * Follows a pointer from a press on. moved is called once it is further away than a hand trembles; ended at last, with whether anything
 * was carried.
 */
export function carry(
  event: PointerEvent,
  moved: (e: PointerEvent) => void,
  ended: (e: PointerEvent, carried: boolean) => void,
) {
  let carried = false
  const move = (e: PointerEvent) => {
    carried ||= Math.abs(e.clientX - event.clientX) + Math.abs(e.clientY - event.clientY) >= 8
    if (carried) moved(e)
  }
  const end = (e: PointerEvent) => {
    removeEventListener('pointermove', move)
    removeEventListener('pointerup', end)
    removeEventListener('pointercancel', end)
    ended(e, carried)
  }
  addEventListener('pointermove', move)
  addEventListener('pointerup', end)
  addEventListener('pointercancel', end)
}
