// What the editor offers while a program is written: names to complete, and ways out of an error.
import type { Completion, CompletionContext, CompletionResult } from '@codemirror/autocomplete'
import type { Diagnostic, Point } from './api'

const keywords = [
  'PROGRAM', 'END_PROGRAM', 'FUNCTION_BLOCK', 'END_FUNCTION_BLOCK', 'VAR', 'VAR_INPUT', 'VAR_OUTPUT', 'END_VAR', 'LADDER', 'END_LADDER', 'RUNG',
  'IF', 'THEN', 'ELSIF', 'ELSE', 'END_IF', 'CASE', 'OF', 'END_CASE', 'FOR', 'TO', 'BY', 'DO', 'END_FOR', 'AND', 'OR', 'XOR', 'NOT', 'MOD', 'TRUE', 'FALSE',
  'BOOL', 'INT', 'DINT', 'REAL', 'TIME',
]

/** Blocks with the inputs that a call needs, and what they are. */
const blocks: Record<string, [inputs: string, purpose: string, outputs: string[]]> = {
  TON: ['IN := , PT := T#5s', 'on-delay timer', ['Q', 'ET']],
  TOF: ['IN := , PT := T#5s', 'off-delay timer', ['Q', 'ET']],
  TP: ['IN := , PT := T#5s', 'pulse timer', ['Q', 'ET']],
  TACC: ['IN := , R := , PT := T#5s', 'accumulating timer', ['Q', 'ET']],
  CTU: ['CU := , R := , PV := 5', 'up counter', ['Q', 'CV']],
  CTD: ['CD := , LD := , PV := 5', 'down counter', ['Q', 'CV']],
  CTUD: ['CU := , CD := , R := , LD := , PV := 5', 'up and down counter', ['QU', 'QD', 'CV']],
  R_TRIG: ['CLK := ', 'rising edge', ['Q']],
  F_TRIG: ['CLK := ', 'falling edge', ['Q']],
  SR: ['S1 := , R := ', 'latch, set wins', ['Q1']],
  RS: ['S := , R1 := ', 'latch, reset wins', ['Q1']],
}

/** The variables that a text declares, with their types. */
export function declared(text: string): Map<string, string> {
  const found = new Map<string, string>()
  for (const section of text.matchAll(/\bVAR\w*\b([\s\S]*?)\bEND_VAR\b/gi)) {
    for (const line of section[1].matchAll(/([\w\s,]+?)(?:\s+AT\s+%\S+)?\s*:\s*(\w+)/gi)) {
      for (const name of line[1].split(',')) if (name.trim()) found.set(name.trim(), line[2])
    }
  }
  return found
}

/** Completes points, variables, members of blocks, calls and keywords. */
export function completer(points: Point[]) {
  return (context: CompletionContext): CompletionResult | null => {
    const names = declared(context.state.doc.toString())
    const member = context.matchBefore(/\w+\.\w*/)
    if (member) {
      const [instance] = member.text.split('.')
      const type = [...names].find(([n]) => n.toLowerCase() === instance.toLowerCase())?.[1].toUpperCase() ?? ''
      const members = blocks[type]?.[2] ?? []
      return { from: member.from + instance.length + 1, options: members.map((label) => ({ label, type: 'property', detail: 'of ' + instance })) }
    }
    const word = context.matchBefore(/\w+/)
    if (!word || (word.from === word.to && !context.explicit)) return null
    const options: Completion[] = points.map((p) => ({ label: p.name, type: 'variable', detail: `${p.type} ${p.at} ${p.label}`, boost: 2 }))
    for (const [name, type] of names) {
      options.push({ label: name, type: 'variable', detail: type, boost: 1 })
      const block = blocks[type.toUpperCase()]
      if (block) options.push({ label: name + '(…)', apply: `${name}(${block[0]})`, type: 'function', detail: 'call the ' + block[1] })
    }
    for (const [name, [, purpose]] of Object.entries(blocks)) options.push({ label: name, type: 'type', detail: purpose })
    options.push(...keywords.map((label) => ({ label, type: 'keyword' })))
    return { from: word.from, options, validFor: /^\w*$/ }
  }
}

/** What is known of a name: its type, and of a point its address and device. */
export function described(name: string, text: string, points: Point[]): string {
  const p = points.find((p) => p.name.toLowerCase() === name.toLowerCase())
  if (p) return `${p.name} : ${p.type} at ${p.at}, ${p.label} (${p.device}${p.contact === 'closed' ? ', normally closed' : ''})`
  const [first, member] = name.split('.')
  const type = [...declared(text)].find(([n]) => n.toLowerCase() === first.toLowerCase())?.[1]
  if (type) return member ? `${name}, of the ${blocks[type.toUpperCase()]?.[1] ?? type} ${first}` : `${first} : ${type}${blocks[type.toUpperCase()] ? ', ' + blocks[type.toUpperCase()][1] : ''}`
  const block = blocks[name.toUpperCase()]
  return block ? `${name.toUpperCase()}, ${block[1]}: ${block[0]} → ${block[2].join(', ')}` : ''
}

/** A change of the text that mends an error. Places are offsets. */
export interface Fix {
  name: string
  from: number
  to: number
  insert: string
}

/** The ways out of an error at from … to. */
export function fixes(d: Diagnostic, text: string, from: number, to: number): Fix[] {
  const list: Fix[] = []
  const meant = /Did you mean ([\w.]+)\?/.exec(d.hint ?? '')?.[1]
  if (meant) list.push({ name: 'Write ' + meant, from, to, insert: meant })
  if (d.code === 'semicolon') list.push({ name: 'Write ;', from: to, to, insert: ';' })
  if (d.code === 'assignment' && text.slice(from, to) === '=') list.push({ name: 'Write :=', from, to, insert: ':=' })
  if (d.code === 'undeclared') {
    const name = text.slice(from, to)
    const unit = /\bPROGRAM\s+\w+[^\n]*\n/i.exec(text)
    if (/^[A-Za-z]\w*$/.test(name) && unit) {
      const call = /^\s*\(/.test(text.slice(to))
      const at = unit.index + unit[0].length
      for (const type of call ? ['TON', 'CTU'] : implied(text, from, to)) {
        list.push({ name: `Declare it as ${type}`, from: at, to: at, insert: `VAR ${name} : ${type}; END_VAR\n` })
      }
    }
  }
  return list
}

/** The types that a name's place implies: a contact or coil is a BOOL, beside a number it is an INT. */
function implied(text: string, from: number, to: number): string[] {
  const before = text.slice(Math.max(0, from - 12), from)
  const after = text.slice(to, to + 12)
  if (/[[(][/PNSR ]*$/.test(before) && /^\s*[\])]/.test(after)) return ['BOOL']
  if (/^\s*([<>+*-]|:=\s*\d)/.test(after) || /[<>+*-]\s*$/.test(before)) return ['INT']
  return ['BOOL', 'INT']
}
