// The service's calls, as far as the console makes them. Their types are made from the service's own description of itself.
import type {
  Assignment,
  Beginning,
  Checked,
  Class,
  ClassProgress,
  ClassSettings,
  Comment,
  Course,
  CourseSettings,
  Draft,
  Enrolled,
  Exchanged,
  Exercise,
  Folder,
  Handin,
  Hinted,
  HTML,
  Insight,
  JoinCode,
  Key,
  Lesson,
  Marks,
  Member,
  Owned,
  PageAuditEntry,
  PageHandin,
  PageMember,
  Person,
  Progress,
  Pushed,
  Regraded,
  Revision,
  Saving,
  Session,
  Share,
  SignIn,
  Summary,
  Terms,
  Writing,
} from './contract'

export type * from './contract'

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

async function call<T>(
  method: string,
  path: string,
  body?: unknown,
  headers: Record<string, string> = {},
  keepalive = false,
): Promise<T> {
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
  const places = (answer.errors ?? [])
    .map((e: { location: string; message: string }) => `\n${e.location}: ${e.message}`)
    .join('')
  throw new Problem(
    response.status,
    (answer.detail ?? 'The service answered with status ' + response.status + '.') + places,
    answer.code,
  )
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
const written = (owner: string, exercise: string, rest: string) => `library/${name(owner)}/${name(exercise)}${rest}`

export const api = {
  session: () => call<Session>('GET', 'session'),
  signIn: (login: string, password: string) => call<Person>('POST', 'session', { login, password }),
  signOut: () => call<void>('DELETE', 'session'),
  signIns: () => call<SignIn[]>('GET', 'signins'),
  endSignIn: (id: number) => call<void>('DELETE', `signins/${id}`),
  exercises: () => call<Summary[]>('GET', 'exercises' + inClass()),
  exercise: (name: string) => call<Exercise>('GET', at(name)),
  key: (name: string) => call<Key>('GET', at(name, '/key')),
  check: (name: string, file: string, text: string) => call<Checked>('POST', at(name, '/check'), { file, text }),
  readExchange: (file: string, text: string) => call<Exchanged>('POST', 'exchange/read', { file, text }),
  writeExchange: (file: string, text: string, form: string) =>
    call<Exchanged>('POST', 'exchange/write', { file, text, form }),
  drafts: (name: string) => call<Draft[]>('GET', at(name, '/drafts')),
  /** leaving is set where the page may be gone before the answer comes. */
  saveDraft: (name: string, language: string, text: string, version: number, leaving: boolean) =>
    call<Draft>('PUT', at(name, '/drafts/' + language), { text, version }, {}, leaving && text.length < 30_000),
  handIn: (name: string, file: string, text: string, key: string) =>
    call<Handin>('POST', at(name, '/handins'), { file, text }, { 'Idempotency-Key': key }),
  /** Hand-ins to an exercise, newest first; a page of them, of one login or of all. */
  handins: (exercise: string, person = '', after = '') =>
    call<PageHandin>(
      'GET',
      at(exercise, '/handins') + (chosen ? '&' : '?') + `person=${name(person)}&after=${name(after)}`,
    ),
  handin: (id: string) => call<Handin>('GET', 'handins/' + encodeURIComponent(id)),
  start: (name: string) => call<Summary>('POST', at(name, '/start')),
  join: (code: string, password: string) => call<Person>('POST', 'join', { code, password }),
  classes: () => call<Class[]>('GET', 'classes'),
  makeClass: (settings: ClassSettings) => call<Class>('POST', 'classes', settings),
  changeClass: (id: number, settings: ClassSettings) => call<Class>('PUT', of(id), settings),
  members: (id: number) => call<Member[]>('GET', of(id, '/members')),
  addMember: (id: number, login: string) => call<void>('POST', of(id, '/members'), { login }),
  removeMember: (id: number, login: string) => call<void>('DELETE', of(id, '/members/' + name(login))),
  issueCode: (id: number, login: string) => call<JoinCode>('POST', of(id, `/members/${name(login)}/code`)),
  enrol: (id: number, csv: string, dry: boolean) => call<Enrolled>('POST', of(id, '/roster'), { csv, dry }),
  assignments: (id: number) => call<Assignment[]>('GET', of(id, '/assignments')),
  assign: (id: number, exercise: string, terms: Terms) =>
    call<Assignment>('PUT', of(id, '/assignments/' + name(exercise)), terms),
  take: (id: number, from: number, exercises: string[]) =>
    call<Assignment[]>('POST', of(id, '/assignments'), { from, exercises }),
  /** Stores a zip of an exercise's folder, in base64. */
  addExercise: (zip: string) => call<Pushed>('POST', 'exercises' + inClass(), { zip }),
  insight: (id: number, exercise: string) => call<Insight>('GET', of(id, '/insight/' + name(exercise))),
  /** Says something to everybody whose counting hand-in behaves like a known mistake. */
  hint: (id: number, exercise: string, mistake: string, text: string) =>
    call<Hinted>('POST', of(id, '/insight/' + name(exercise) + '/hint'), { mistake, text }),
  regrade: (id: number, exercise: string, handin: number, apply = '') =>
    call<Regraded>('POST', of(id, '/regrade'), { exercise, handin, apply }),
  audit: (id: number, after = '') => call<PageAuditEntry>('GET', of(id, '/audit?after=' + name(after))),
  override: (id: number, earned: number, reason: string) =>
    call<Handin>('PUT', `handins/${id}/override`, { earned, reason }),
  takeBack: (id: number) => call<void>('DELETE', `handins/${id}/override`),
  people: (letters: string, after = '') => call<PageMember>('GET', `people?with=${name(letters)}&after=${name(after)}`),
  addPerson: (login: string, full: string, role: Person['role']) =>
    call<JoinCode>('POST', 'people', { login, name: full, role }),
  issueCodeTo: (login: string) => call<JoinCode>('POST', `people/${name(login)}/code`),
  disable: (login: string, disabled: boolean) => call<Member>('PUT', `people/${name(login)}/ability`, { disabled }),
  comment: (id: number, line: number, text: string) => call<Comment>('POST', `handins/${id}/comments`, { line, text }),
  removeComment: (id: number, comment: number) => call<void>('DELETE', `handins/${id}/comments/${comment}`),
  marks: () => call<Marks>('GET', 'marks' + inClass()),
  library: () => call<Owned[]>('GET', 'library'),
  lessons: () => call<Lesson[]>('GET', 'lessons'),
  beginExercise: (with_: Beginning) => call<Writing>('POST', 'library', with_),
  writing: (owner: string, exercise: string) => call<Writing>('GET', written(owner, exercise, '/writing')),
  saveWriting: (owner: string, exercise: string, what: Saving, leaving = false) =>
    call<Writing>(
      'PUT',
      written(owner, exercise, '/writing'),
      what,
      {},
      leaving && JSON.stringify(what).length < 60_000,
    ),
  discardWriting: (owner: string, exercise: string) => call<void>('DELETE', written(owner, exercise, '/writing')),
  publish: (owner: string, exercise: string, version: number, note: string) =>
    call<Pushed>('POST', written(owner, exercise, '/revisions'), { version, note }),
  revisions: (owner: string, exercise: string) => call<Revision[]>('GET', written(owner, exercise, '/revisions')),
  revision: (owner: string, exercise: string, number: number) =>
    call<Folder>('GET', written(owner, exercise, '/revisions/' + number)),
  /** Which marks of a class would move with what was written. */
  tryMarks: (owner: string, exercise: string, id: number) =>
    call<Regraded>('POST', written(owner, exercise, '/trial'), { class: id }),
  give: (owner: string, exercise: string, id: number) =>
    call<void>('POST', written(owner, exercise, '/classes'), { class: id }),
  withdraw: (owner: string, exercise: string) => call<void>('PUT', written(owner, exercise, '/withdrawal')),
  offerAgain: (owner: string, exercise: string) => call<void>('DELETE', written(owner, exercise, '/withdrawal')),
  shares: (owner: string, exercise: string) => call<Share[]>('GET', written(owner, exercise, '/shares')),
  share: (owner: string, exercise: string, login: string, may: Share['may']) =>
    call<Share>('PUT', written(owner, exercise, '/shares/' + name(login)), { may }),
  endShare: (owner: string, exercise: string, login: string) =>
    call<void>('DELETE', written(owner, exercise, '/shares/' + name(login))),
  courses: () => call<Course[]>('GET', 'courses'),
  course: (owner: string, course: string) => call<Course>('GET', `courses/${name(owner)}/${name(course)}`),
  saveCourse: (owner: string, course: string, settings: CourseSettings) =>
    call<Course>('PUT', `courses/${name(owner)}/${name(course)}`, settings),
  removeCourse: (owner: string, course: string) => call<void>('DELETE', `courses/${name(owner)}/${name(course)}`),
  /** Stores a zip of a course's folder, in base64. */
  importCourse: (zip: string) => call<Course>('POST', 'courses', { zip }),
  giveCourse: (owner: string, course: string, id: number) =>
    call<void>('POST', `courses/${name(owner)}/${name(course)}/classes`, { class: id }),
  preview: (text: string) => call<HTML>('POST', 'preview', { text }),
}

/** Follows a class's hand-ins; returns what ends the following. */
export function followClass(id: number, tell: (p: ClassProgress) => void): () => void {
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
