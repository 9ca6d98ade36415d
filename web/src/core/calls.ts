// The core's calls and their types, made from the Go types: go test ./bridge -run TestConsoleHas -update
import type { Diagnostic, Result, Trace, Why } from '../contract'

/** What goes into each call, and what comes out. */
export interface Calls {
  open: { in: Opening; out: Opened }
  check: { in: Program; out: Checked }
  format: { in: Program; out: Written }
  grade: { in: Handin; out: Result }
  draw: { in: Sketch; out: Drawn }
  amend: { in: Amending; out: Amended }
  clip: { in: Cut; out: Written }
  names: { in: Position; out: NamePlace[] }
  variables: { in: Program; out: Listed[] }
  blocks: { in: Program; out: Box[] }
  complete: { in: Position; out: Completion }
  describe: { in: Position; out: Description }
  implied: { in: Naming; out: string[] }
  start: { in: Program; out: Put }
  play: { in: Played; out: Put }
  replace: { in: Program; out: Put }
  device: { in: Worked; out: object }
  do: { in: Deed; out: object }
  release: { in: object; out: object }
  run: { in: Running; out: Looked }
  look: { in: LookAt; out: Looked }
  back: { in: LookAt; out: Looked }
  trace: { in: Window; out: Lane[] }
  next: { in: Seeking; out: Found }
  why: { in: Moment; out: Why }
  script: { in: object; out: Script }
  walk: { in: Scanned; out: Stage[] }
  words: { in: object; out: Word[] }
  wiring: { in: object; out: Picture }
}

export interface Amended {
  text: string
  at: Place
  drawn: Drawn
}

export interface Amending {
  file: string
  text: string
  columns: number
  steps: Step[]
}

export interface Box {
  name: string
  purpose: string
  pins: Pin[]
  power: string
  function: boolean
  stem?: string
}

export interface Break {
  row: number
  nextRow: number
}

export interface Checked {
  diagnostics: Diagnostic[]
  summary: string
  missing: string[]
  marks: Mark[]
  fixes: Fix[][]
}

export interface Completion {
  from: number
  offers: Offer[]
}

export interface Cut {
  file: string
  text: string
  at: Place
  count: number
}

export interface Deed {
  verb: string
  name: string
  value: string
}

export interface Description {
  name: string
  words: string
  from: number
}

export interface Device {
  picture: 'button' | 'toggle' | 'slider' | 'lamp'
  on: string
  off: string
}

export interface Drawn {
  units: Unit[]
  rungs: Rung[]
  fresh: Record<string, Geometry>
}

export interface End {
  line: number
  column: number
}

export interface Fix {
  name: string
  from: End
  to: End
  insert: string
}

export interface Found {
  scan: number
}

export interface Geometry {
  title: string
  columns: number
  rows: number
  items: Item[]
  wires: Wire[]
  links: Link[]
  breaks: Break[]
  spots: Spot[]
}

export interface GradedName {
  signal: string
  block?: string
  member?: string
}

export interface Handin {
  files: Record<string, string>
  file: string
  text: string
}

export interface Item {
  kind: 'contact' | 'coil' | 'box'
  row: number
  column: number
  rows: number
  mark: string
  label: string
  type: string
  inputs: string[]
  outputs: string[]
  measure?: string
  preset?: string
  start: number
  end: number
}

export interface Lane {
  name: string
  kind: string
  preset?: number
  segments: [number, number, number][]
}

export interface Link {
  boundary: number
  fromRow: number
  toRow: number
}

export interface Listed {
  name: string
  section: string
  type: string
  address: string
  initial: string
  description: string
  line: number
  unit: number
  places: NamePlace[]
}

export interface LookAt {
  scan: number
  names: string[]
  from?: number
  to?: number
  instances?: Record<string, string>
}

export interface Looked {
  scan: number
  scans: number
  first: number
  time: string
  values: Record<string, string>
  since: Record<string, string>
  flows: [number, number, number, number][]
  forced: string[]
  fault: string
  line: number
  states: Record<string, number>
  broken: Record<string, boolean>
}

export interface Mark {
  unit: number
  number: number
  start: number
  severity: 'error' | 'warning'
  words: string
}

export interface Moment {
  name: string
  scan: number
}

export interface NamePlace {
  name: string
  use: 'declares' | 'reads' | 'writes' | 'calls'
  line: number
  column: number
  end: number
  offset: number
  words: string
}

export interface Naming {
  file: string
  text: string
  name: string
}

export interface Offer {
  label: string
  kind: 'variable' | 'property' | 'function' | 'type' | 'constant' | 'keyword'
  detail?: string
  insert?: string
  first?: boolean
}

export interface Opened {
  devices: Record<string, Device>
}

export interface Opening {
  period: string
  inputs: Point[]
  outputs: Point[]
  graded: GradedName[]
  tasks: Task[]
}

export interface Picture {
  svg: string
}

export interface Pin {
  name: string
  type: string
  output: boolean
  value?: string
}

export interface Place {
  unit: number
  rung: number
  path: number[]
}

export interface Played {
  file: string
  text: string
  script: Trace
  expected: Trace
}

export interface Point {
  name: string
  at: string
  device: string
  contact: string
  label: string
  type: string
  unit?: string
  initial?: number
}

export interface Position {
  file: string
  text: string
  line: number
  column: number
}

export interface Program {
  file: string
  text: string
}

export interface Put {
  runs: boolean
  summary: string
  names: string[]
  instances: Record<string, string[]>
}

export interface Rung {
  unit: number
  number: number
  key: string
  line: number
  start: number
  end: number
  comment?: string
}

export interface Running {
  scans: number
  scan: number
  names: string[]
  from?: number
  to?: number
  instances?: Record<string, string>
}

export interface Scanned {
  scan: number
}

export interface Script {
  table: string
  scenario: string
}

export interface Seeking {
  name: string
  scan: number
  back: boolean
}

export interface Sketch {
  file: string
  text: string
  columns: number
}

export interface Spot {
  path: number[]
  item: number
  row: number
  from: number
  to: number
  go: [number, number, number, number]
}

export interface Stage {
  kind: 'inputs' | 'element' | 'branches' | 'statement' | 'enter' | 'outputs' | 'stop'
  line: number
  start: number
  end: number
  rung: number
  title: string
  instance: string
  text: string
  say: string
  in: boolean
  out: boolean
  closed: boolean
  writes: Write[]
}

export interface Step {
  do: 'put' | 'branch' | 'branch below' | 'remove' | 'insert rung' | 'remove rung' | 'move rung' | 'title' | 'comment' | 'declare' | 'redeclare' | 'undeclare' | 'rename'
  at?: Partial<Place>
  count?: number
  text?: string
  to?: number
  offset?: number
  variable?: Partial<Variable>
}

export interface Task {
  program: string
  every: number
  priority: number
  once: boolean
}

export interface Unit {
  name: string
  kind: string
  ladder: boolean
  line: number
}

export interface Variable {
  name: string
  section: string
  type: string
  address: string
  initial: string
  description: string
  line: number
}

export interface Wide {
  name: string
  from: number
  size: number
}

export interface Window {
  names: string[]
  from: number
  to: number
}

export interface Wire {
  row: number
  from: number
  to: number
}

export interface Word {
  address: string
  bits: string[]
  wide: Wide[]
}

export interface Worked {
  name: string
  state?: number
  broken?: boolean
}

export interface Write {
  name: string
  before: string
  after: string
}

export interface Written {
  text: string
}

/** The language's words, for its colours. */
export const language = {
  keywords:
    'AND ARRAY AT BY CASE CONSTANT CONTINUE DO ELSE ELSIF END_CASE END_FBD END_FOR END_FUNCTION ' +
    'END_FUNCTION_BLOCK END_IF END_LADDER END_PROGRAM END_REPEAT END_STRUCT END_TYPE END_VAR END_WHILE ' +
    'EXIT FALSE FBD FOR FUNCTION FUNCTION_BLOCK IF LADDER MOD NOT OF OR PROGRAM REPEAT RETAIN RETURN RUNG ' +
    'STRUCT THEN TO TRUE TYPE UNTIL VAR VAR_EXTERNAL VAR_GLOBAL VAR_INPUT VAR_IN_OUT VAR_OUTPUT VAR_TEMP ' +
    'WHILE XOR',
  types:
    'BOOL SINT INT DINT LINT USINT UINT UDINT ULINT BYTE WORD DWORD LWORD REAL LREAL TIME STRING',
  blocks:
    'SR RS R_TRIG F_TRIG CTU CTU_DINT CTU_LINT CTU_UDINT CTU_ULINT CTD CTD_DINT CTD_LINT CTD_UDINT ' +
    'CTD_ULINT CTUD CTUD_DINT CTUD_LINT CTUD_UDINT CTUD_ULINT TON TOF TP TACC',
}
