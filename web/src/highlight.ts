// Colours for structured text and ladder notation.

import { HighlightStyle, StreamLanguage, syntaxHighlighting } from '@codemirror/language'
import { tags } from '@lezer/highlight'

const keywords = new Set(
  ('and array at by case constant continue do else elsif end_case end_for end_function end_function_block end_if end_ladder end_program ' +
    'end_repeat end_struct end_type end_var end_while exit for function function_block if ladder mod not of or program repeat retain return ' +
    'rung struct then to type until var var_external var_global var_input var_in_out var_output var_temp while xor').split(' '),
)
const types = new Set('bool sint int dint lint usint uint udint ulint byte word dword lword real lreal time string'.split(' '))
const blocks = /^(sr|rs|r_trig|f_trig|ton|tof|tp|tacc|ctu|ctd|ctud)(_[a-z]+)?$/

const language = StreamLanguage.define<{ comment: number }>({
  startState: () => ({ comment: 0 }),
  token(stream, state) {
    if (state.comment > 0 || stream.match('(*')) {
      if (state.comment === 0) state.comment = 1
      while (!stream.eol()) {
        if (stream.match('*)')) {
          if (--state.comment === 0) break
        } else if (stream.match('(*')) state.comment++
        else stream.next()
      }
      return 'comment'
    }
    if (stream.eatSpace()) return null
    const first = stream.peek() ?? '' // which tells what can stand here; a long program is coloured in the time of a key press
    if (first === '/' && stream.match(/^\/\/.*/)) return 'comment'
    if (first === "'" && stream.match(/^'[^']*'?/)) return 'string'
    if (first === '%' && stream.match(/^%[IQM][A-Z]?[\d.]+/i)) return 'atom'
    if (/\d/.test(first) && stream.match(/^\d[\w#.]*/)) return 'number'
    if (/[A-Za-z_]/.test(first)) {
      if (/t/i.test(first) && stream.match(/^(T|TIME)#[-\w.]+/i)) return 'number'
      const w = (stream.match(/^\w+/) as RegExpMatchArray)[0].toLowerCase()
      if (keywords.has(w)) return 'keyword'
      if (w === 'true' || w === 'false') return 'atom'
      if (types.has(w) || blocks.test(w)) return 'typeName'
      return 'variableName'
    }
    if (/[:=[\](){}|-]/.test(first) && stream.match(/^(:=|=>|--|[[\](){}|])/)) return 'operator'
    stream.next()
    return null
  },
  languageData: { commentTokens: { line: '//', block: { open: '(*', close: '*)' } } },
})

const colours = HighlightStyle.define([
  { tag: tags.keyword, color: 'var(--color-secondary)', fontWeight: '600' },
  { tag: tags.typeName, color: 'var(--color-info)' },
  { tag: [tags.number, tags.atom], color: 'var(--color-warning)' },
  { tag: tags.string, color: 'var(--color-info)' },
  { tag: tags.comment, color: 'color-mix(in oklab, var(--color-base-content) 68%, transparent)', fontStyle: 'italic' },
  { tag: tags.operator, fontWeight: '600' },
])

export const controllerText = [language, syntaxHighlighting(colours)]
