/** An attachment that puts the focus into a field as it appears, with its text chosen. */
export function focused(field: HTMLInputElement) {
  field.focus({ preventScroll: true })
  field.select()
}
