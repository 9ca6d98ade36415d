import { api, Problem, type Exercise, type Point, type Writing } from '../api'
import type { Calls, Changed, Judgement, Outline, PanelPoint, Problem as Wrong } from '../core/calls'
import type { Core, Opened } from '../core/core'
import { bytesOf, textOf } from '../base64'
import { solutionIn } from './written.svelte'

type Texts = Record<string, string>

/** A folder: its texts, and its pictures in base64. */
interface Folder {
  texts: Texts
  pictures: Texts
}

/** How long after a change it goes to the service, and how long after a failure it is tried again, in ms. */
const soon = 1200
const again = 4000

/** What became of what was written. */
export type Kept = 'service' | 'browser' | 'waiting'

const isPicture = (name: string) => name.startsWith('pictures/')

function folderOf(files: Texts): Folder {
  const folder: Folder = { texts: {}, pictures: {} }
  for (const [name, content] of Object.entries(files)) {
    if (isPicture(name)) folder.pictures[name] = content
    else folder.texts[name] = textOf(content)
  }
  return folder
}

/** The names of what was written anew, and of what is no more, from one state of some files to another. */
function between(was: Texts, is: Texts) {
  return {
    changed: Object.keys(is).filter((n) => is[n] !== was[n]),
    gone: Object.keys(was).filter((n) => !(n in is)),
  }
}
const same = (a: Folder, b: Folder) =>
  [between(a.texts, b.texts), between(a.pictures, b.pictures)].every((d) => !d.changed.length && !d.gone.length)

/**
 * An exercise being written: its folder, what the core knows of it, every change to be taken back, and its way to the service.
 * What it means is the core's business; every change is a call on the core, one after the other.
 */
export class Workshop {
  readonly owner: string
  readonly name: string
  readonly core: Core
  /** A core of its own, so that judging a long script keeps nobody waiting. */
  readonly judge: Core
  readonly person: string
  files = $state.raw<Folder>({ texts: {}, pictures: {} })
  outline = $state.raw<Outline | null>(null)
  judgement = $state.raw<Judgement | null>(null)
  /** The solution whose traces the instructor has agreed with. */
  settled = $state('')
  may = $state<'read' | 'change'>('read')
  base = $state(0)
  newest = $state(0)
  version = $state(0)
  kept = $state<Kept>('service')
  /** What somebody else has made of it meanwhile, where both have changed the same file. */
  elsewhere = $state.raw<{ by: string; files: Folder; version: number } | null>(null)
  /** What was brought together from somebody else's changes and one's own. */
  notice = $state('')
  problem = $state('')
  /** Counts the states that came from elsewhere than the programs' editor, which then begins anew. */
  opened = $state(0)
  #past = $state.raw<Folder[]>([])
  #future = $state.raw<Folder[]>([])
  #typed = { file: '', at: 0 }
  /** As the service had it when both last agreed. */
  #agreed: Folder = { texts: {}, pictures: {} }
  #turn: Promise<unknown> = Promise.resolve()
  #looking = 0
  #bringing?: ReturnType<typeof setTimeout>
  #judging?: ReturnType<typeof setTimeout>
  #judged = false // one is under way
  #due = false // another is wanted after it
  #moving = false
  #saving: Promise<unknown> = Promise.resolve()
  #ended = false

  constructor(core: Core, judge: Core, person: string, w: Writing) {
    this.core = core
    this.judge = judge
    this.person = person
    this.owner = w.owner
    this.name = w.name
    this.#take(w)
    const kept = localStorage.getItem(this.#place)
    if (kept && this.may === 'change') this.#goOn(JSON.parse(kept))
    document.addEventListener('visibilitychange', this.#leaving)
    void this.look()
  }

  get #place() {
    return `celandine.${this.person}.workshop.${this.owner}.${this.name}`
  }

  #take(w: Writing) {
    this.files = this.#agreed = folderOf(w.files)
    ;[this.version, this.base, this.newest, this.may, this.settled] = [w.version, w.base, w.newest, w.may, w.settled]
  }

  /** Goes on with what this browser has kept and the service has not. */
  #goOn(kept: { version: number; texts: Texts; gone: string[] }) {
    if (kept.version !== this.version) {
      this.notice =
        'This browser keeps changes that were not saved before somebody else changed the exercise; they were left out.'
      localStorage.removeItem(this.#place)
      return
    }
    const texts = { ...this.files.texts, ...kept.texts }
    for (const name of kept.gone) delete texts[name]
    this.#set({ ...this.files, texts })
  }

  /** Learners predict what a program does, and write none. */
  get predicts() {
    return this.outline?.form.kind === 'predict'
  }

  /** The exercise as it is predicted: its scripts, and what is asked of each. */
  asked = $derived.by((): Exercise => {
    const e = this.exercise!
    const o = this.outline!
    return {
      ...e,
      kind: 'predict',
      reasons: o.form.reasons,
      graded: e.graded.map((g, n) => ({
        ...g,
        slack: Number(/^\d+/.exec(o.form.graded[n].slack)?.[0] ?? 2),
        type: this.judgement?.signals.find((s) => s.name.toLowerCase() === g.signal.toLowerCase())?.type ?? 'BOOL',
      })),
      scenarios: o.scripts.map((s) => {
        const form = o.form.scenarios[s.scenario]
        const byHand = form.byHand === 'true'
        return { name: form.name, points: Number(form.points) || 1, shown: true, byHand, script: s.inputs }
      }),
    }
  })

  /** The exercise as a learner's page has it, for panel, bench and drawing. */
  exercise = $derived.by((): Exercise | null => {
    const o = this.outline
    if (!o) return null
    const point = (p: PanelPoint): Point => ({ ...p, contact: p.closed ? 'closed' : 'open' })
    const graded = o.form.graded.map((g) => ({
      signal: g.block ? g.block + '.' + g.member : g.signal,
      block: g.block,
      member: g.member,
      weight: Number(g.weight) || 1,
      slack: 0,
    }))
    return {
      name: this.name,
      title: o.form.title,
      topic: o.form.topic,
      points: 0,
      revision: this.base,
      handins: 0,
      attempts: 0,
      minutes: 0,
      kind: 'write',
      period: o.period,
      languages: o.languages.length ? o.languages : ['ladder', 'st'],
      brief: '',
      picture: o.picture ? this.picture64(o.picture) : undefined,
      inputs: o.inputs.map(point),
      outputs: o.outputs.map(point),
      graded,
      told: '',
      scenarios: [],
      starters: {},
      tasks: [],
    } as Exercise
  })

  /** A picture of the folder, for a page that shows it before the service has it. */
  picture64(name: string): string | undefined {
    const content = this.files.pictures[name]
    const kind = name.split('.').at(-1)!.toLowerCase().replace('jpg', 'jpeg')
    return content && `data:image/${kind};base64,${content}`
  }

  /** What is wrong, untested or untold about a place of exercise.yaml, or a file. */
  wrong(at: string): Wrong[] {
    const all = [...(this.outline?.problems ?? []), ...(this.judgement?.problems ?? [])]
    return all.filter((p) => (p.at ? p.at === at || p.at.startsWith(at + '/') : p.file === at))
  }

  get problems(): Wrong[] {
    return [...(this.outline?.problems ?? []), ...(this.judgement?.problems ?? [])]
  }

  /** Lets the core change the folder. Changes are made one after the other; what one cannot do is told. */
  change<K extends keyof Calls>(call: K, argument: Omit<Calls[K]['in'], 'files'>): Promise<boolean> {
    const done = this.#turn.then(async () => {
      try {
        const changed = (await this.core.ask(call, { ...argument, files: this.named } as Calls[K]['in'])) as Changed
        const texts = { ...this.files.texts, ...changed.files }
        for (const name of changed.gone) delete texts[name]
        this.#note({ ...this.files, texts })
        return true
      } catch (error) {
        this.problem = (error as Error).message
        return false
      }
    })
    this.#turn = done
    return done
  }

  /** Writes a value of exercise.yaml; an empty one that may be left out is taken out. */
  async put(at: string, value: unknown) {
    return this.change('edit', { edits: [value === undefined ? { do: 'remove', at } : { do: 'put', at, value }] })
  }

  /**
   * Moves an item of a list by one place. While one is on its way the numbers of the page are old: a second move would take it back,
   * and is not made.
   */
  async moveItem(list: string, from: number, to: number): Promise<boolean> {
    if (this.#moving) return false
    this.#moving = true
    const done = await this.change('edit', { edits: [{ do: 'move', at: `${list}/${from}`, to }] })
    await this.look()
    this.#moving = false
    return done
  }

  /** Writes a file; null takes it out. typed is set for letters, of which several are one change. */
  write(name: string, text: string | null, typed = false) {
    const texts = { ...this.files.texts }
    if (text === null) delete texts[name]
    else if (texts[name] === text) return
    else texts[name] = text
    const goesOn = typed && this.#typed.file === name && performance.now() - this.#typed.at < 800
    this.#typed = { file: typed ? name : '', at: performance.now() }
    this.#note({ ...this.files, texts }, goesOn)
  }

  /** Puts a picture in, or takes it out. */
  picture(name: string, content: string | null) {
    const pictures = { ...this.files.pictures }
    if (content === null) delete pictures[name]
    else pictures[name] = content
    this.#note({ ...this.files, pictures })
  }

  /** The texts, and the names of the pictures, as the core is sent them. */
  get named(): Texts {
    return { ...this.files.texts, ...Object.fromEntries(Object.keys(this.files.pictures).map((n) => [n, ''])) }
  }

  #note(next: Folder, goesOn = false) {
    if (same(next, this.files)) return
    if (!goesOn) this.#past = [...this.#past, this.files]
    this.#future = []
    this.problem = ''
    this.#set(next)
  }

  get undoable() {
    return this.#past.length > 0
  }

  get redoable() {
    return this.#future.length > 0
  }

  undo() {
    const before = this.#past.at(-1)
    if (!before) return
    this.#past = this.#past.slice(0, -1)
    this.#future = [...this.#future, this.files]
    this.#typed.file = ''
    this.#set(before)
    this.opened++
  }

  redo() {
    const next = this.#future.at(-1)
    if (!next) return
    this.#future = this.#future.slice(0, -1)
    this.#past = [...this.#past, this.files]
    this.#set(next)
    this.opened++
  }

  #set(files: Folder) {
    this.files = files
    this.#keep()
    void this.look()
  }

  /** Agrees with what the solution does now. */
  settle() {
    const solution = this.solution
    if (!solution || this.settled === solution) return
    this.settled = solution
    this.#keep(true)
    void this.look()
  }

  get solution() {
    return this.files.texts[solutionIn(this.files.texts)] ?? ''
  }

  /** Asks the core what is known of the folder now, and a moment later what it is worth. */
  async look() {
    const turn = ++this.#looking
    const files = this.named
    const outline = await this.core.ask('outline', { files }).catch((error: Error) => {
      this.problem = error.message
      return null
    })
    if (turn !== this.#looking || this.#ended || !outline) return
    this.outline = outline
    clearTimeout(this.#judging)
    this.#judging = setTimeout(() => void this.#judge(), 150)
  }

  /** A judgement may take long: while one is under way no other begins, and what it was about is looked at again after it. */
  async #judge() {
    this.#due = this.#judged
    if (this.#judged) return
    this.#judged = true
    const turn = this.#looking
    const judgement = await this.judge.ask('judge', { files: this.named, before: this.settled }).catch(() => null)
    this.#judged = false
    if (this.#due) void this.#judge()
    if (turn !== this.#looking || this.#ended || !judgement) return
    this.judgement = judgement
    // Where nothing moved, the instructor has seen what the solution does: from here on it is what a change is compared with.
    const moved = judgement.scenes.some((s) => s.moved.length)
    if (!moved && judgement.ready && this.solution && this.settled !== this.solution) {
      this.settled = this.solution // it goes to the service with the next change
    }
  }

  // The way to the service.

  #unsaved() {
    const texts = between(this.#agreed.texts, this.files.texts)
    const pictures = between(this.#agreed.pictures, this.files.pictures)
    return { texts: texts.changed, pictures: pictures.changed, gone: [...texts.gone, ...pictures.gone] }
  }

  #keep(anyway = false) {
    if (this.may !== 'change') return
    const { texts, pictures, gone } = this.#unsaved()
    if (!anyway && !texts.length && !pictures.length && !gone.length) {
      localStorage.removeItem(this.#place)
      this.kept = 'service'
      return
    }
    const kept = {
      version: this.version,
      texts: Object.fromEntries(texts.map((n) => [n, this.files.texts[n]])),
      gone,
    }
    try {
      localStorage.setItem(this.#place, JSON.stringify(kept))
    } catch {
      // The browser keeps no more; the service does.
    }
    if (this.kept !== 'waiting') {
      this.kept = 'browser'
      this.#bringSoon(soon)
    }
  }

  #bringSoon(after: number) {
    clearTimeout(this.#bringing)
    this.#bringing = setTimeout(() => void this.bring(), after)
  }

  #leaving = () => {
    if (document.visibilityState === 'hidden' && this.kept !== 'service') void this.bring(true)
  }

  /** Saves on the service what has changed since both agreed. One save is under way at a time. */
  async bring(leaving = false): Promise<void> {
    clearTimeout(this.#bringing)
    if (this.elsewhere || this.may !== 'change') return
    const { texts, pictures, gone } = this.#unsaved()
    const sent = this.files
    const files = Object.fromEntries([
      ...texts.map((n) => [n, bytesOf(sent.texts[n])]),
      ...pictures.map((n) => [n, sent.pictures[n]]),
    ])
    const saving = { version: this.version, files, gone, settled: this.settled }
    this.#saving = this.#saving.then(async () => {
      if (saving.version !== this.version) return void this.#bringSoon(0)
      try {
        const saved = await api.saveWriting(this.owner, this.name, saving, leaving)
        this.version = saved.version
        this.#agreed = sent
        this.kept = 'service'
        if (this.files !== sent) this.#keep()
        else localStorage.removeItem(this.#place)
      } catch (error) {
        await this.#refused(error)
      }
    })
    return this.#saving as Promise<void>
  }

  async #refused(error: unknown) {
    if (error instanceof Problem && error.status === 409) return this.#meet()
    if (error instanceof Problem && error.status === 422) this.problem = error.message
    if (this.#ended) return
    this.kept = 'waiting'
    clearTimeout(this.#bringing)
    this.#bringing = setTimeout(() => {
      this.kept = 'browser'
      void this.bring()
    }, again)
  }

  /** Somebody else has saved: where they changed other files, both are brought together; else the person chooses. */
  async #meet() {
    const w = await api.writing(this.owner, this.name)
    const theirs = folderOf(w.files)
    const mine = this.files
    const both = (kind: keyof Folder) => {
      const out: Texts = { ...theirs[kind] }
      let clash = false
      for (const n of new Set([
        ...Object.keys(mine[kind]),
        ...Object.keys(theirs[kind]),
        ...Object.keys(this.#agreed[kind]),
      ])) {
        const [was, here, there] = [this.#agreed[kind][n], mine[kind][n], theirs[kind][n]]
        if (here === was || here === there) continue
        if (there !== was) clash = true
        if (here === undefined) delete out[n]
        else out[n] = here
      }
      return { out, clash }
    }
    const [texts, pictures] = [both('texts'), both('pictures')]
    if (texts.clash || pictures.clash) {
      this.elsewhere = { by: w.savedBy, files: theirs, version: w.version }
      return
    }
    this.#agreed = theirs
    this.version = w.version
    this.notice = `${w.savedBy} has changed this exercise, too. Both changes are in it now.`
    this.#past = [...this.#past, mine]
    this.#set({ texts: texts.out, pictures: pictures.out })
    this.opened++
    this.#bringSoon(0)
  }

  /** Goes on with theirs, one's own being one undo away; or keeps one's own over theirs. */
  choose(theirs: boolean) {
    const { files, version } = this.elsewhere!
    this.elsewhere = null
    this.#agreed = files
    this.version = version
    if (!theirs) return this.#keep(true)
    this.#past = [...this.#past, this.files]
    this.#future = []
    this.#set(files)
    this.opened++
  }

  /** Publishes what is saved; what is not is saved first. */
  async publish(note: string) {
    await this.#turn
    await this.bring()
    if (this.elsewhere) throw new Error('Somebody else has changed the exercise. Choose first; nothing was published.')
    const published = await api.publish(this.owner, this.name, this.version, note)
    const w = await api.writing(this.owner, this.name)
    this.#take(w)
    localStorage.removeItem(this.#place)
    await this.look()
    return published
  }

  end() {
    document.removeEventListener('visibilitychange', this.#leaving)
    clearTimeout(this.#bringing)
    clearTimeout(this.#judging)
    if (this.kept !== 'service' && !this.elsewhere) void this.bring(true)
    this.#ended = true
  }

  /** The panel is on the bench's core again, as the outline has it. */
  open(): Promise<Opened> {
    return this.core.open(this.exercise!)
  }

  /** A name for a file that there is not yet. */
  free(stem: string, ending: string) {
    const there = { ...this.files.texts, ...this.files.pictures }
    for (let n = 1; ; n++) {
      const name = `${stem}${n === 1 ? '' : '-' + n}${ending}`
      if (!(name in there)) return name
    }
  }
}
