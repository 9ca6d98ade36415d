/** Tells that a hand is down now, and that it has let go, wherever it does. */
export function untilLetGo(hand: (down: boolean) => void) {
  const end = () => {
    removeEventListener('pointerup', end)
    removeEventListener('pointercancel', end)
    hand(false)
  }
  addEventListener('pointerup', end)
  addEventListener('pointercancel', end)
  hand(true)
}
