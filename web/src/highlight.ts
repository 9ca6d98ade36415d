// Colours for structured text, ladder notation and block diagrams.

import { HighlightStyle, StreamLanguage, syntaxHighlighting } from '@codemirror/language'
import { tags } from '@lezer/highlight'
import { language as words } from './core/calls'

const setOf = (words: string) => new Set(words.toLowerCase().split(' '))
const keywords = setOf(words.keywords)
const types = setOf(words.types + ' ' + words.blocks)

const language = StreamLanguage.define<{ comment: number; blocks: boolean }>({
  startState: () => ({ comment: 0, blocks: false }),
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
      if (w === 'true' || w === 'false') return 'atom'
      if (w === 'fbd' || w === 'end_fbd') state.blocks = w === 'fbd'
      if (keywords.has(w) || (state.blocks && (w === 'network' || w === 'wire'))) return 'keyword'
      if (types.has(w)) return 'typeName'
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
