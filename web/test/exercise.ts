import type { Exercise } from '../src/contract'

/** Hold the mist valve in, as the demo course has it, with a temperature besides. */
export const mist: Exercise = {
  name: 'mist-hold-in',
  title: 'Hold the mist valve in',
  topic: 'latches',
  points: 10,
  revision: 1,
  handins: 0,
  kind: 'write',
  period: '10 ms',
  languages: ['ladder', 'st'],
  brief: '',
  told: '',
  inputs: [
    { name: 'mist_on', at: '%IX0.0', device: 'button', contact: 'open', label: 'Mist ON', type: 'BOOL' },
    { name: 'mist_off', at: '%IX0.1', device: 'button', contact: 'closed', label: 'Mist OFF', type: 'BOOL' },
    { name: 'bed_temp', at: '%IW2', device: 'sensor', contact: 'open', label: 'Bed', type: 'INT', initial: 215 },
  ],
  outputs: [{ name: 'mist_valve', at: '%QX0.0', device: 'valve', contact: 'open', label: 'Bed 1 mist', type: 'BOOL' }],
  graded: [{ signal: 'mist_valve', weight: 1, slack: 2 }],
  scenarios: [{ name: 'stays on after release', points: 4, shown: true }],
  starters: {
    ladder: 'PROGRAM mist\nLADDER\nRUNG [mist_on] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n',
    st: 'PROGRAM mist\nmist_valve := mist_on;\nEND_PROGRAM\n',
  },
  tasks: [],
}

/** A ladder of these rungs. */
export const ladder = (...rungs: string[]) => `PROGRAM mist\nLADDER\n${rungs.join('\n')}\nEND_LADDER\nEND_PROGRAM\n`

export const holdIn = ladder('RUNG { [mist_on] | [mist_valve] } -- [mist_off] -- (mist_valve);')
