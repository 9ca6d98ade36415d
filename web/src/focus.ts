/** An attachment that puts the focus into a field as it appears, with its text chosen. */
export function focused(field: HTMLInputElement) {
  field.focus({ preventScroll: true })
  field.select()
}

/** The same where its text has been begun: the next letter goes on with it. */
export function begun(field: HTMLInputElement) {
  field.focus({ preventScroll: true })
  field.setSelectionRange(field.value.length, field.value.length)
}
