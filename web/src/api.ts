// The service's interface, as far as the console uses it. The field names are
// the API's own; see /api/openapi.json.

export interface Person {
  login: string
  name: string
  role: 'administrator' | 'instructor' | 'learner'
  class: string
  classes?: Class[]
}

export interface Class {
  id: number
  name: string
  timeZone: string
  counts: 'best' | 'last'
}

export interface Member {
  login: string
  name: string
  role: Person['role']
  joined: boolean
  disabled: boolean
}

/** A browser's session or a token that acts for one. */
export interface SignIn {
  id: number
  kind: 'session' | 'token'
  name: string
  scope: 'read' | 'hand-in' | 'all'
  began: string
  used?: string
  expires: string
  /** The one that asks. */
  this: boolean
}

export interface JoinCode {
  login: string
  name: string
  code?: string
  expires: string
}

export interface Enrolled {
  added: JoinCode[]
  known: number
  problems: { line: number; say: string }[]
  dry: boolean
}

/** What an assignment asks; a missing time and a 0 ask nothing. */
export interface Terms {
  opens?: string
  due?: string
  late: 'none' | 'until' | 'percent'
  lateUntil?: string
  latePercent: number
  attempts: number
  sees: 'marks' | 'first' | 'shown' | 'all'
  minutes: number
  published: boolean
  position: number
}

export interface Assignment extends Terms {
  name: string
  title: string
  points: number
  revision: number
}

export interface HandinShort {
  id: number
  person: string
}

export interface Insight {
  exercise: string
  title: string
  handins: number
  scenarios: { name: string; passed: number; of: number; points: number }[]
  differences: { scenario: string; signal: string; say: string; handins: HandinShort[] }[]
  alike: { handins: HandinShort[] }[]
}

export interface Regraded {
  key: string
  revision: number
  graded: number
  changes: { handin: number; number: number; person: string; before: number; after: number }[]
  applied: boolean
}

export interface AuditEntry {
  id: number
  at: string
  by: string
  action: string
  subject: string
  before: unknown
  after: unknown
}

export interface Page<T> {
  items: T[]
  next?: string
}

export interface Comment {
  id: number
  line: number
  rung?: number
  text: string
  by: string
  at: string
}

export interface Summary {
  name: string
  title: string
  topic: string
  points: number
  revision: number
  handins: number
  best?: number
  due?: string
  closes?: string
  attempts?: number
  minutes?: number
  ends?: string
  /** Why no hand-in is taken now, and its code. */
  refused?: string
  reason?: string
}

export interface Point {
  name: string
  at: string
  device: string
  contact: 'open' | 'closed'
  label: string
  type: string
  unit?: string
  initial?: number
}

export interface Exercise extends Summary {
  period: string
  languages: string[]
  brief: string
  inputs: Point[]
  outputs: Point[]
  graded: { signal: string; block?: string; member?: string; weight: number }[]
  told: string
  scenarios: { name: string; points: number; shown: boolean }[]
  starters: Record<string, string>
  tasks: { program: string; every: number; priority: number; once: boolean }[]
}

export interface Diagnostic {
  code: string
  severity: 'error' | 'warning'
  line: number
  column: number
  endLine: number
  endColumn: number
  message: string
  hint?: string
}

export interface Checked {
  diagnostics: Diagnostic[]
  summary: string
  missing: string[]
  /** Where in the rungs, from the core in the browser. */
  marks?: Mark[]
}

/** A diagnostic at a rung, at a place from the start of the rung's text. */
export interface Mark {
  unit: number
  number: number
  start: number
  severity: 'error' | 'warning'
  words: string
}

export type Value = boolean | number | string

/** Why a value was what it was, back along its cause. */
export interface Why {
  signal: string
  scan: number
  time: string
  value: string
  short: string[]
  steps: WhyStep[]
}

export interface WhyStep {
  signal: string
  value: string
  scan: number
  since: number
  kind: string
  /** The instance or function whose rung or line it is. */
  within?: string
  /** What else would have kept the value so. */
  second?: string
  place?: { file: string; line: number; start: number; end: number; rung?: number; title?: string }
  elements: { text: string; name: string; state: string; since: number; decides: boolean; in?: boolean; out?: boolean; start: number; end: number }[]
  say: string
}

export interface SignalMark {
  signal: string
  /** TON.ET, where it is graded by its block's type. */
  of?: string
  /** A program that does nothing gets it right. */
  still: boolean
  ok: boolean
  why?: Why
  missing?: string
  difference?: { scan: number; time: string; expected: Value; actual: Value }
}

export interface ScenarioMark {
  name: string
  earned: number
  points: number
  signals: SignalMark[]
  still?: boolean
  note?: string
  hidden?: boolean
  fault?: { scan: number; line: number; message: string }
}

export interface Result {
  earned: number
  points: number
  scenarios: ScenarioMark[]
  findings: { rule: string; deduct: number; say: string }[]
  diagnostics: Diagnostic[]
}

export interface Column {
  name: string
  type: 'BOOL' | 'INT' | 'UINT' | 'REAL' | 'TIME' | 'STRING'
  /** Of a STRING: what its values are places in. */
  texts?: string[]
  segments: [scan: number, value: number, slope: number][]
}

export interface Trace {
  period: number
  scans: number
  signals: Column[]
}

export interface Evidence {
  scenario: string
  inputs: Trace
  expected: Trace
  actual: Trace
}

export interface Handin {
  id: number
  number: number
  exercise: string
  title: string
  person: Person
  file: string
  text?: string
  handedIn: string
  state: 'waiting' | 'graded'
  earned?: number
  /** What counts: less what lateness costs, or the mark given by hand. */
  counted?: number
  late?: number
  override?: { earned: number; reason: string; by: string; at: string }
  comments?: Comment[]
  /** The neighbours in the review queue. */
  before?: number
  after?: number
  points: number
  result?: Result
  evidence?: Evidence[]
}

/** A text that the service keeps while it is written; version counts the savings. */
export interface KeptDraft {
  language: string
  text: string
  version: number
}

export interface Progress {
  state: 'waiting' | 'graded'
  earned?: number
  points: number
}

export interface Marks {
  class: string
  exercises: Summary[]
  rows: { person: Person; marks: { handins: number; earned?: number; handin: number; late?: number; byHand?: boolean }[] }[]
}

/** What the service said was wrong. Status 0: it could not be reached. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    message: string,
    /** Stable, for programs. */
    readonly code = '',
  ) {
    super(message)
  }
}

let whenSignedOut = () => {}

/** Calls back when an answer shows that nobody is signed in any more. */
export function onSignedOut(callback: () => void) {
  whenSignedOut = callback
}

async function call<T>(method: string, path: string, body?: unknown, headers: Record<string, string> = {}, keepalive = false): Promise<T> {
  let response: Response
  try {
    response = await fetch('/api/' + path, {
      method,
      keepalive,
      headers: body === undefined ? headers : { 'Content-Type': 'application/json', ...headers },
      body: body === undefined ? undefined : JSON.stringify(body),
    })
  } catch {
    throw new Problem(0, 'The service cannot be reached. Your text is kept here; try again in a moment.')
  }
  if (response.status === 204) return undefined as T
  const answer = await response.json().catch(() => ({}))
  if (response.ok) return answer as T
  if (response.status === 401 && !['session', 'me', 'join'].includes(path)) whenSignedOut()
  const places = (answer.errors ?? []).map((e: { location: string; message: string }) => `\n${e.location}: ${e.message}`).join('')
  throw new Problem(response.status, (answer.detail ?? 'The service answered with status ' + response.status + '.') + places, answer.code)
}

/** The class whose exercises and marks are meant; 0 is one's first. */
let chosen = 0
export function chooseClass(id: number) {
  chosen = id
}

const at = (exercise: string, rest = '') => 'exercises/' + encodeURIComponent(exercise) + rest + inClass()
const inClass = () => (chosen ? '?class=' + chosen : '')
const of = (id: number, rest = '') => `classes/${id}${rest}`
const name = encodeURIComponent

export const api = {
  me: () => call<Person>('GET', 'me'),
  signIn: (login: string, password: string) => call<Person>('POST', 'session', { login, password }),
  signOut: () => call<void>('DELETE', 'session'),
  signIns: () => call<SignIn[]>('GET', 'signins'),
  endSignIn: (id: number) => call<void>('DELETE', `signins/${id}`),
  exercises: () => call<Summary[]>('GET', 'exercises' + inClass()),
  exercise: (name: string) => call<Exercise>('GET', at(name)),
  check: (name: string, file: string, text: string) => call<Checked>('POST', at(name, '/check'), { file, text }),
  drafts: (name: string) => call<KeptDraft[]>('GET', at(name, '/drafts')),
  /** leaving is set where the page may be gone before the answer comes. */
  saveDraft: (name: string, language: string, text: string, version: number, leaving: boolean) =>
    call<KeptDraft>('PUT', at(name, '/drafts/' + language), { text, version }, {}, leaving && text.length < 30_000),
  handIn: (name: string, file: string, text: string, key: string) =>
    call<Handin>('POST', at(name, '/handins'), { file, text }, { 'Idempotency-Key': key }),
  /** Hand-ins to an exercise, newest first; a page of them, of one login or of all. */
  handins: (exercise: string, person = '', after = '') => call<Page<Handin>>('GET', at(exercise, '/handins') + (chosen ? '&' : '?') + `person=${name(person)}&after=${name(after)}`),
  handin: (id: string) => call<Handin>('GET', 'handins/' + encodeURIComponent(id)),
  start: (name: string) => call<Summary>('POST', at(name, '/start')),
  join: (code: string, password: string) => call<Person>('POST', 'join', { code, password }),
  classes: () => call<Class[]>('GET', 'classes'),
  makeClass: (settings: Omit<Class, 'id'>) => call<Class>('POST', 'classes', settings),
  changeClass: (id: number, settings: Omit<Class, 'id'>) => call<Class>('PUT', of(id), settings),
  members: (id: number) => call<Member[]>('GET', of(id, '/members')),
  addMember: (id: number, login: string) => call<void>('POST', of(id, '/members'), { login }),
  removeMember: (id: number, login: string) => call<void>('DELETE', of(id, '/members/' + name(login))),
  issueCode: (id: number, login: string) => call<JoinCode>('POST', of(id, `/members/${name(login)}/code`)),
  enrol: (id: number, csv: string, dry: boolean) => call<Enrolled>('POST', of(id, '/roster'), { csv, dry }),
  assignments: (id: number) => call<Assignment[]>('GET', of(id, '/assignments')),
  assign: (id: number, exercise: string, terms: Terms) => call<Assignment>('PUT', of(id, '/assignments/' + name(exercise)), terms),
  take: (id: number, from: number, exercises: string[]) => call<Assignment[]>('POST', of(id, '/assignments'), { from, exercises }),
  /** Stores a zip of an exercise's folder, in base64. */
  addExercise: (zip: string) => call<{ name: string; revision: number }>('POST', 'exercises' + inClass(), { zip }),
  insight: (id: number, exercise: string) => call<Insight>('GET', of(id, '/insight/' + name(exercise))),
  regrade: (id: number, exercise: string, handin: number, apply = '') => call<Regraded>('POST', of(id, '/regrade'), { exercise, handin, apply }),
  audit: (id: number, after = '') => call<Page<AuditEntry>>('GET', of(id, '/audit?after=' + name(after))),
  override: (id: number, earned: number, reason: string) => call<Handin>('PUT', `handins/${id}/override`, { earned, reason }),
  takeBack: (id: number) => call<void>('DELETE', `handins/${id}/override`),
  people: (letters: string, after = '') => call<Page<Member>>('GET', `people?with=${name(letters)}&after=${name(after)}`),
  addPerson: (login: string, full: string, role: Person['role']) => call<JoinCode>('POST', 'people', { login, name: full, role }),
  issueCodeTo: (login: string) => call<JoinCode>('POST', `people/${name(login)}/code`),
  disable: (login: string, disabled: boolean) => call<Member>('PUT', `people/${name(login)}/ability`, { disabled }),
  comment: (id: number, line: number, text: string) => call<Comment>('POST', `handins/${id}/comments`, { line, text }),
  removeComment: (id: number, comment: number) => call<void>('DELETE', `handins/${id}/comments/${comment}`),
  marks: () => call<Marks>('GET', 'marks' + inClass()),
}

/** Follows a class's hand-ins; returns what ends the following. */
export function followClass(id: number, tell: (p: { graded: number; waiting: number }) => void): () => void {
  const source = new EventSource(`/api/classes/${id}/events`)
  source.addEventListener('progress', (event) => tell(JSON.parse((event as MessageEvent).data)))
  return () => source.close()
}

/** Follows a hand-in until it is graded; returns what ends the following. */
export function follow(id: number, tell: (p: Progress) => void): () => void {
  const source = new EventSource('/api/handins/' + id + '/events')
  source.addEventListener('progress', (event) => {
    const progress = JSON.parse((event as MessageEvent).data) as Progress
    tell(progress)
    if (progress.state === 'graded') source.close()
  })
  return () => source.close()
}
