import type { Closure, Material, Section } from '@/api/client'

/** One number of a document that is typed with its unit. */
export interface Field {
  name: string
  label: string
  unit: string
  min: number
  max: number
  step?: number
  digits?: number
  /** What one unit shown is in the document, where they differ. */
  scale?: number
}

export interface Kind<K extends string> {
  kind: K
  title: string
  fields: Field[]
  materials?: { name: string; label: string; kinds: Material['kind'][] }[]
}

const mm = (name: string, label: string, min: number, max: number, step = 0.5): Field => ({
  name,
  label,
  unit: 'mm',
  min,
  max,
  step,
  digits: 2,
})
const DULL: Material['kind'][] = ['opaque', 'metal', 'cloudy']

export const CLOSURES: Kind<Closure['kind']>[] = [
  {
    kind: 'cap',
    title: 'screw cap or lid',
    fields: [
      mm('height', 'Closure height', 1, 500),
      mm('wall_thickness', 'Cap wall', 0.3, 20, 0.1),
      mm('rounding', 'Cap edge rounding', 0, 40),
      { name: 'ribs', label: 'Ribs around', unit: 'ribs', min: 0, max: 200, step: 6, digits: 0 },
    ],
    materials: [{ name: 'material', label: 'Closure', kinds: DULL }],
  },
  {
    kind: 'overcap',
    title: 'smooth overcap',
    fields: [
      mm('height', 'Overcap height (0 follows)', 0, 500),
      mm('diameter', 'Overcap diameter (0 follows)', 0, 500),
      mm('wall_thickness', 'Overcap wall', 0.3, 20, 0.1),
      mm('rounding', 'Overcap edge rounding', 0, 60),
    ],
    materials: [{ name: 'material', label: 'Overcap', kinds: DULL }],
  },
  {
    kind: 'dropper',
    title: 'dropper',
    fields: [
      mm('collar_height', 'Collar height', 1, 100),
      { name: 'ribs', label: 'Ribs around', unit: 'ribs', min: 0, max: 200, step: 6, digits: 0 },
      mm('bulb_height', 'Bulb height', 5, 100),
      mm('bulb_diameter', 'Bulb diameter', 4, 60),
      mm('pipette_diameter', 'Pipette diameter', 1.5, 30),
      mm('to_floor', 'Tip above the floor', 0.5, 300),
    ],
    materials: [
      { name: 'material', label: 'Collar', kinds: DULL },
      { name: 'bulb', label: 'Bulb', kinds: DULL },
      { name: 'pipette', label: 'Pipette', kinds: ['clear'] },
    ],
  },
  {
    kind: 'pump',
    title: 'pump',
    fields: [
      mm('collar_height', 'Collar height', 1, 100),
      mm('travel', 'Travel', 1, 60),
      { name: 'pressed', label: 'Pressed', unit: '%', min: 0, max: 100, step: 10, digits: 0, scale: 0.01 },
      mm('actuator_diameter', 'Head diameter', 5, 80),
      mm('actuator_height', 'Head height', 4, 60),
      mm('spout', 'Spout', 0, 150),
      mm('tube_diameter', 'Dip tube diameter', 1.5, 20),
      mm('to_floor', 'Tip above the floor', 0.5, 300),
    ],
    materials: [
      { name: 'material', label: 'Collar', kinds: DULL },
      { name: 'actuator', label: 'Head', kinds: DULL },
      { name: 'tube', label: 'Dip tube', kinds: ['clear', 'opaque'] },
    ],
  },
  {
    kind: 'stopper',
    title: 'stopper',
    fields: [
      mm('depth', 'Depth in the neck', 1, 200),
      mm('head_height', 'Head height', 1, 200),
      mm('head_overhang', 'Head over the rim', 0, 60),
      mm('rounding', 'Head rounding', 0, 60),
    ],
    materials: [
      { name: 'material', label: 'Plug', kinds: DULL },
      { name: 'head', label: 'Head', kinds: DULL },
    ],
  },
  {
    kind: 'flip_top',
    title: 'flip-top',
    fields: [
      mm('height', 'Closure height', 4, 200),
      mm('lid_height', 'Lid height', 2, 100),
      mm('wall_thickness', 'Cap wall', 0.3, 20, 0.1),
      mm('rounding', 'Lid rounding', 0, 60),
      { name: 'open_angle', label: 'Lid turned back', unit: '°', min: 0, max: 150, step: 10, digits: 0 },
    ],
    materials: [{ name: 'material', label: 'Flip-top', kinds: DULL }],
  },
  {
    kind: 'tin_lid',
    title: 'slip lid of a tin',
    fields: [
      mm('height', 'Lid height', 2, 200),
      mm('roll', 'Rolled edge', 0.2, 5, 0.1),
      mm('rounding', 'Lid rounding', 0, 30),
    ],
    materials: [{ name: 'material', label: 'Lid', kinds: DULL }],
  },
]

const depth: Field = {
  name: 'depth_ratio',
  label: 'Depth of its width',
  unit: '%',
  min: 2,
  max: 1000,
  step: 5,
  digits: 1,
  scale: 0.01,
}
const corner: Field = {
  name: 'corner',
  label: 'Edge rounding',
  unit: '%',
  min: 2,
  max: 100,
  step: 5,
  digits: 0,
  scale: 0.01,
}

export const SECTIONS: Kind<Section['kind']>[] = [
  { kind: 'round', title: 'round', fields: [] },
  { kind: 'oval', title: 'oval', fields: [depth] },
  {
    kind: 'squircle',
    title: 'squircle',
    fields: [depth, { name: 'squareness', label: 'Squareness', unit: '', min: 2, max: 12, step: 0.5, digits: 1 }],
  },
  { kind: 'rectangle', title: 'rounded rectangle', fields: [depth, corner] },
  {
    kind: 'polygon',
    title: 'polygon',
    fields: [{ name: 'sides', label: 'Sides', unit: 'sides', min: 3, max: 24, step: 1, digits: 0 }, corner],
  },
  { kind: 'own', title: 'own outline', fields: [] },
]

export function startingSection(kind: Section['kind']): Section {
  switch (kind) {
    case 'oval':
      return { kind, depth_ratio: 0.6 }
    case 'squircle':
      return { kind, depth_ratio: 1, squareness: 4 }
    case 'rectangle':
      return { kind, depth_ratio: 0.6, corner: 0.3 }
    case 'polygon':
      return { kind, sides: 6, corner: 0.2 }
    case 'own':
      return {
        kind,
        smooth: true,
        points: [
          [0, -10],
          [8, -7],
          [11, 0],
          [8, 7],
          [0, 10],
          [-8, 7],
          [-11, 0],
          [-8, -7],
        ],
      }
    default:
      return { kind: 'round' }
  }
}

export const ZONES = ['heel', 'body', 'shoulder', 'neck', 'finish'] as const
