import '@fontsource-variable/inter'
import '@fontsource-variable/jetbrains-mono'
import './app.css'
import { mount } from 'svelte'
import App from './App.svelte'

// After an upgrade a page that was open asks for parts that are gone: it begins anew, at most once in a minute.
addEventListener('vite:preloadError', (event) => {
  const again = Number(sessionStorage.getItem('celandine.again') ?? 0)
  if (Date.now() - again < 60_000) return
  event.preventDefault()
  sessionStorage.setItem('celandine.again', String(Date.now()))
  location.reload()
})

export default mount(App, { target: document.getElementById('app')! })
