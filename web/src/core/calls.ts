// The core's calls and their types, made from the Go types: go test ./bridge -run TestConsoleHas -update
import type { Diagnostic, Result, Trace, Why } from '../contract'

/** What goes into each call, and what comes out. */
export interface Calls {
  open: { in: Opening; out: Opened }
  check: { in: Program; out: Checked }
  format: { in: Program; out: Written }
  draw: { in: Sketch; out: Drawn }
  amend: { in: Amending; out: Amended }
  clip: { in: Cut; out: Written }
  names: { in: Position; out: NamePlace[] }
  variables: { in: Program; out: Listed[] }
  blocks: { in: Program; out: Box[] }
  complete: { in: Position; out: Completion }
  describe: { in: Position; out: Description }
  implied: { in: Naming; out: string[] }
  grade: { in: Handin; out: Result }
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
  convert: { in: Converting; out: Converted }
  outline: { in: Folder; out: Outline }
  judge: { in: Judged; out: Judgement }
  try: { in: Tried; out: Variant }
  edit: { in: Edited; out: Changed }
  addPoint: { in: Added; out: Changed }
  rename: { in: Renamed; out: Changed }
  moveEdge: { in: MovedEdge; out: Changed }
  addStep: { in: AddedStep; out: Changed }
  reshape: { in: Reshaped; out: Changed }
  taken: { in: Stretch; out: Timed[] }
  paste: { in: Pasted; out: Changed }
  ramp: { in: Ramp; out: Changed }
  work: { in: WorkedFor; out: Changed }
  repeat: { in: Repeated; out: Changed }
  breakWire: { in: OfInput; out: Changed }
  rows: { in: InScenario; out: Row[] }
  setCell: { in: Cell; out: Changed }
  record: { in: InScenario; out: Changed }
  copyScenario: { in: InScenario; out: Changed }
  steps: { in: InScenario; out: Changed }
  pin: { in: Pinned; out: Changed }
  unpin: { in: InScenario; out: Changed }
  addCheck: { in: AddedCheck; out: Changed }
  ignore: { in: Stretch; out: Changed }
  drawExpected: { in: DrawnExpected; out: Changed }
  gradeSignal: { in: GradedSignal; out: Changed }
  starter: { in: Starter; out: Changed }
  scanOf: { in: MomentText; out: Scanned }
  sentence: { in: Sentence; out: Changed }
  begun: { in: InLanguage; out: Written }
  rungs: { in: Program; out: RungText[] }
  differences: { in: TwoFolders; out: string[] }
  strengthBegin: { in: Folder; out: Trying }
  strengthGo: { in: object; out: Trying }
  addScenario: { in: AddedScenario; out: Changed }
}

export interface Added {
  files: Record<string, string>
  input: boolean
  type: string
}

export interface AddedCheck {
  files: Record<string, string>
  scenario: number
  from: number
  to: number
  check: CheckForm
}

export interface AddedScenario {
  files: Record<string, string>
  name: string
  steps: StepForm[]
  scans: number
}

export interface AddedStep {
  files: Record<string, string>
  scenario: number
  scan: number
  step: StepForm
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

export interface ByKind {
  kind: string
  words: string
  mutants: number
  caught: number
}

export interface ByWhich {
  scenario: string
  caught: number
  alone: number
}

export interface Carried {
  start: number
  end: number
  value: string
}

export interface Cell {
  files: Record<string, string>
  scenario: number
  scan: number
  input: string
  value: string
}

export interface Changed {
  files: Record<string, string>
  gone: string[]
}

export interface CheckForm {
  signal: string
  from: string
  to: string
  is: string
  rises: string
  falls: string
}

export interface Checked {
  diagnostics: Diagnostic[]
  summary: string
  missing: string[]
  marks: Mark[]
  fixes: Fix[][]
}

export interface Choice {
  name: string
  says: string
}

export interface Completion {
  from: number
  offers: Offer[]
}

export interface Converted {
  text: string
  told: string[]
}

export interface Converting {
  file: string
  text: string
  language: string
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
  networks: Rung[]
  fresh: Record<string, Geometry>
  laid: Record<string, Network>
}

export interface DrawnExpected {
  files: Record<string, string>
  scenario: number
  from: number
  to: number
  signal: string
  value: string
}

export interface Edge {
  step: number
  turn: number
  input: string
  scan: number
  state: number
  moves: string
}

export interface Edit {
  do: 'put' | 'insert' | 'remove' | 'move'
  at: string
  value?: unknown
  to?: number
}

export interface Edited {
  files: Record<string, string>
  edits: Edit[]
}

export interface End {
  line: number
  column: number
}

export interface ExpectForm {
  table: string
  erratic: string
  checks: CheckForm[]
}

export interface Expected {
  signal: string
  from: number
  to: number
  says: string
}

export interface Fix {
  name: string
  from: End
  to: End
  insert: string
}

export interface Folder {
  files: Record<string, string>
}

export interface Fork {
  x: number
  y: number
  ways: number
}

export interface Form {
  name: string
  title: string
  topic: string
  kind: string
  reasons: string[]
  period: string
  languages: string[]
  panel: PanelForm
  graded: GradedForm[]
  scenarios: ScenarioForm[]
  rules: RuleForm[]
  tasks: TaskForm[]
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

export interface GradedForm {
  signal: string
  block: string
  member: string
  weight: string
  slack: string
  drift: string
  within: string
}

export interface GradedName {
  signal: string
  block?: string
  member?: string
}

export interface GradedSignal {
  files: Record<string, string>
  signal: Signal
}

export interface Handin {
  files: Record<string, string>
  file: string
  text: string
}

export interface InLanguage {
  files: Record<string, string>
  language: string
}

export interface InScenario {
  files: Record<string, string>
  scenario: number
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

export interface Judged {
  files: Record<string, string>
  before: string
}

export interface Judgement {
  ready: boolean
  points: string
  problems: Problem[]
  scenes: Scene[]
  variants: Variant[]
  signals: Signal[]
  untold: Untold[]
}

export interface Lane {
  name: string
  kind: string
  preset?: number
  segments: [number, number, number][]
}

export interface LineValue {
  name: string
  start: number
  end: number
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
  lines: Carried[]
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

export interface Mistake {
  file: string
  says: string
}

export interface Moment {
  name: string
  scan: number
}

export interface MomentText {
  period: string
  text: string
}

export interface Moved {
  signal: string
  scan: number
}

export interface MovedEdge {
  files: Record<string, string>
  scenario: number
  edge: Edge
  to: number
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

export interface Network {
  title: string
  width: number
  height: number
  boxes: NetworkBox[]
  words: NetworkWord[]
  names: NetworkWord[]
  lines: NetworkLine[]
}

export interface NetworkBox {
  x: number
  y: number
  width: number
  height: number
  heading: string
  instance: string
  kind: string
  measure: string
  preset: string
  start: number
  end: number
  path: number[]
  inputs: NetworkPin[]
  outputs: NetworkPin[]
}

export interface NetworkLine {
  from: LineValue
  pieces: Piece[]
  forks: Fork[]
}

export interface NetworkPin {
  name: string
  inverted: boolean
  open: boolean
  path: number[]
}

export interface NetworkWord {
  x: number
  y: number
  text: string
  inverted: boolean
  target: boolean
  start: number
  end: number
  path: number[]
}

export interface OfInput {
  files: Record<string, string>
  scenario: number
  from: number
  to: number
  input: string
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
  languages: string[]
}

export interface Outline {
  form: Form
  period: string
  inputs: PanelPoint[]
  outputs: PanelPoint[]
  picture: string
  languages: string[]
  scripts: Scripted[]
  problems: Problem[]
  mistakes: Mistake[]
  words: Words
}

export interface PanelForm {
  inputs: PointForm[]
  outputs: PointForm[]
}

export interface PanelPoint {
  name: string
  at: string
  device: string
  closed: boolean
  label: string
  type: string
  unit?: string
  initial?: number
  place?: number[]
  row: number
}

export interface Part {
  signal: string
  ok: boolean
  still: boolean
}

export interface Pasted {
  files: Record<string, string>
  scenario: number
  steps: Timed[]
  at: number
}

export interface Picture {
  svg: string
}

export interface Piece {
  x1: number
  y1: number
  x2: number
  y2: number
}

export interface Pin {
  name: string
  type: string
  output: boolean
  value?: string
}

export interface Pinned {
  files: Record<string, string>
  scenario: number
  solution: string
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
  drawn?: boolean
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

export interface PointForm {
  name: string
  at: string
  device: string
  contact: string
  label: string
  type: string
  unit: string
  initial: string
}

export interface Position {
  file: string
  text: string
  line: number
  column: number
}

export interface Problem {
  file: string
  line: number
  column: number
  at: string
  error: boolean
  message: string
  hint: string
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

export interface Ramp {
  files: Record<string, string>
  scenario: number
  from: number
  to: number
  input: string
  every: number
  least: number
  greatest: number
}

export interface Renamed {
  files: Record<string, string>
  at: string
  to: string
}

export interface Repeated {
  files: Record<string, string>
  scenario: number
  from: number
  to: number
  input: string
  times: number
}

export interface Reshaped {
  files: Record<string, string>
  scenario: number
  from: number
  to: number
  do: 'shift' | 'stretch' | 'cut'
  by: number
}

export interface Row {
  scan: number
  time: string
  values: string[]
  now: boolean[]
}

export interface RuleForm {
  require: string
  forbid: string
  warning: string
  chatter: string
  atLeast: string
  atMost: string
  deduct: string
  say: string
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

export interface RungText {
  unit: number
  rung: number
  title: string
  text: string
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

export interface ScenarioForm {
  name: string
  points: string
  shown: string
  byHand: string
  predict: string
  for: string
  script: string
  steps: StepForm[]
  expect: ExpectForm
  ignore: WindowForm[]
}

export interface Scene {
  scenario: number
  does: Trace
  expected: Trace
  was: Trace
  moved: Moved[]
  fault: string
  parts: Part[]
}

export interface Script {
  table: string
  scenario: string
}

export interface Scripted {
  scenario: number
  inputs: Trace
  edges: Edge[]
  ignored: Expected[]
  checks: Expected[]
  table: Trace
}

export interface Seeking {
  name: string
  scan: number
  back: boolean
}

export interface Sentence {
  files: Record<string, string>
  file: string
  says: string
}

export interface Signal {
  name: string
  type: string
  output: boolean
  block: string
  member: string
  graded: number
}

export interface Sketch {
  file: string
  text: string
  columns: number
}

export interface Slipped {
  file: string
  line: number
  mistake: string
  words: string
  name: string
  scans: number
  steps: StepForm[]
  lines: string[]
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
  network: number
  title: string
  instance: string
  text: string
  say: string
  in: boolean
  out: boolean
  closed: boolean
  writes: Write[]
}

export interface Starter {
  files: Record<string, string>
  language: string
  without: RungText[]
}

export interface Step {
  do: 'put' | 'branch' | 'branch below' | 'remove' | 'insert rung' | 'remove rung' | 'move rung' | 'title' | 'comment' | 'connect' | 'invert' | 'insert' | 'more' | 'take' | 'node' | 'target' | 'wire' | 'enable' | 'enable out' | 'declare' | 'redeclare' | 'undeclare' | 'rename'
  at?: Partial<Place>
  from?: Partial<Place>
  count?: number
  text?: string
  to?: number
  offset?: number
  variable?: Partial<Variable>
}

export interface StepForm {
  at: string
  verb: string
  object: string
  values: ValueForm[]
  for: string
  every: string
  times: string
}

export interface StrengthTable {
  percent: number
  mutants: number
  caught: number
  same: number
  kinds: ByKind[]
  scenarios: ByWhich[]
  slipped: Slipped[]
  unfair: string[]
}

export interface Stretch {
  files: Record<string, string>
  scenario: number
  from: number
  to: number
}

export interface Task {
  program: string
  every: number
  priority: number
  once: boolean
}

export interface TaskForm {
  program: string
  every: string
  priority: string
  once: string
}

export interface Timed {
  scan: number
  step: StepForm
}

export interface Tried {
  files: Record<string, string>
  file: string
  text: string
}

export interface Trying {
  tried: number
  mutants: number
  table: StrengthTable
}

export interface TwoFolders {
  before: Record<string, string>
  after: Record<string, string>
}

export interface Unit {
  name: string
  kind: string
  ladder: boolean
  diagram: boolean
  line: number
}

export interface Untold {
  what: string
  name: string
  says: string
}

export interface ValueForm {
  name: string
  value: string
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

export interface Variant {
  file: string
  what: string
  says: string
  earned: string
  full: boolean
  scenes: VariantMark[]
  errors: string
}

export interface VariantMark {
  earned: string
  full: boolean
  loss: string
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

export interface WindowForm {
  from: string
  to: string
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

export interface Words {
  inputDevices: string[]
  outputDevices: string[]
  types: string[]
  elements: Choice[]
  warnings: Choice[]
}

export interface Worked {
  name: string
  state?: number
  broken?: boolean
}

export interface WorkedFor {
  files: Record<string, string>
  scenario: number
  from: number
  to: number
  input: string
  value: string
}

export interface Write {
  name: string
  before: string
  after: string
}

export interface Written {
  text: string
}

/** The calls that the editor answers by itself. */
export const editing: string[] = [
  'open',
  'check',
  'format',
  'draw',
  'amend',
  'clip',
  'names',
  'variables',
  'blocks',
  'complete',
  'describe',
  'implied',
]

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
