/** Light or dark, kept on this device; at first as the device prefers. */
class Look {
  dark = $state(this.#remembered())

  #remembered(): boolean {
    const kept = localStorage.getItem('celandine.look')
    return kept ? kept === 'dark' : matchMedia('(prefers-color-scheme: dark)').matches
  }

  turn() {
    this.dark = !this.dark
    localStorage.setItem('celandine.look', this.dark ? 'dark' : 'light')
  }

  get theme() {
    return this.dark ? 'celandine-dark' : 'celandine'
  }
}

export const look = new Look()
