/** A page of the gallery: the folder of this name has its `main.ts`. */
export interface Page {
  folder: string;
  title: string;
  /** What the picture shows, for those who do not see it. */
  label: string;
  /** What the page is about, on its card. */
  about: string;
}

export const PAGES: readonly Page[] = [
  {
    folder: 'harbour',
    title: 'Harbour by evening light',
    label: 'A harbour with a lighthouse, a quay stacked with crates and two buoys',
    about: 'One glTF file under an evening sky, with shadows. 413 crates in a single draw call; buoys bob.',
  },
  {
    folder: 'the-stage',
    title: 'The stage',
    label: 'An empty quay over a calm sea by evening light',
    about:
      'An empty quay out of a sheet, to block out a scene on: the viewfinder adds shapes and lights, and saves them into the sheet.',
  },
  {
    folder: 'lamp-room',
    title: 'The lamp room',
    label: 'The lamp room of a lighthouse with prisms of glass and brass before an evening sky',
    about:
      'Glass prisms, brushed brass, lacquer, velvet and soap film in the light of an evening sky; controls for light, tone and fog.',
  },
  {
    folder: 'lantern-night',
    title: 'Lantern night',
    label: 'Hundreds of paper lanterns on strings over a quay and dark water',
    about:
      '600 paper lanterns, each a point light of its own, over moving water; bloom spreads their light in the picture.',
  },
  {
    folder: 'signal-flags',
    title: 'Signal flags',
    label: 'Fifteen signal flags on three lines before an evening sky, each treated differently',
    about:
      'A flat page of cards: every flag waves by a shader of its own and has an effect of its own, from a blur to a bent lens.',
  },
  {
    folder: 'periscope',
    title: 'Periscope',
    label: 'A tug reflected by still water, seen once more through a brass periscope and from above',
    about:
      'Four pictures a frame: an exact reflection on the water, a live picture in the eyepiece, a view from above in the corner.',
  },
  {
    folder: 'storm-glass',
    title: 'Storm glass',
    label: 'A tug with its lamps lit in a heavy sea, through a lens with drops of rain on it',
    about:
      'The tug in bad weather: bloom, depth of field, rain on the lens, grading, fringes and grain, each to be switched, with what they cost.',
  },
  {
    folder: 'gulls',
    title: 'Gulls',
    label: 'Two hundred gulls circling over a quay, some walking on it',
    about:
      'A flock on one skeleton: each bird glides, flaps, lands and walks by a state machine of its own; all of them in a single draw.',
  },
  {
    folder: 'figurehead',
    title: 'The figurehead',
    label: 'A carved and painted face from the bow of a ship',
    about:
      'A carved face with nine morph targets by name on sliders, blinking by itself; each target moves only its own part of it.',
  },
  {
    folder: 'varnish',
    title: 'Varnish',
    label: 'A carved face in flat bands of light beside a glass float crusted with salt',
    about:
      'Two shader graphs: one paints the figurehead with stepped light and a hard highlight, one lies over refracting glass.',
  },
  {
    folder: 'shore-crab',
    title: 'The shore crab',
    label: 'A green crab on wet sand between pebbles',
    about:
      'It walks sideways to where one clicks: pointer events on nodes, feet set down by rays, legs bent by inverse kinematics.',
  },
  {
    folder: 'crate-pour',
    title: 'Crate pour',
    label: 'Hundreds of crates poured on a quay',
    about:
      'Crates poured on the quay by a physics package, with gravity down, none or up; transforms written in bulk, one draw.',
  },
  {
    folder: 'kelp',
    title: 'Kelp in the swell',
    label: 'A bed of a million blades of kelp under water, with fish',
    about:
      'A million blades in the swell: bent, clumped and thinned by distance, with fish and motes, and the sea seen from both sides.',
  },
  {
    folder: 'crate-yard',
    title: 'The crate yard',
    label: 'A hundred thousand crates, casks and floats in rows on a quay',
    about:
      '100,000 crates of 20 paints and 5 shapes, a tenth moving, in a handful of draws; a switch for each optimisation, a chart, and the verdict whether it pays.',
  },
  {
    folder: 'urn',
    title: 'The urn',
    label: 'A clay jar whose faces fly apart near the pointer',
    about:
      'A clay jar whose faces fly apart near the pointer: a vertex hook, with a tint and an offset for each face.',
  },
  {
    folder: 'glass-float',
    title: 'The glass float',
    label: 'Glass floats with glowing rims on the planks of the quay',
    about:
      'A rim that glows by view angle over a clear body that bends what lies behind; four tints, one draw.',
  },
  {
    folder: 'jellyfish',
    title: 'Jellyfish',
    label: 'Jellyfish over a kelp bed under water',
    about:
      'Bells of blended distance functions, marched along each ray, mixed by depth with kelp and lit by the same sun.',
  },
  {
    folder: 'chart-print',
    title: 'Chart print',
    label: 'A tug drawn like a print in an old chart book',
    about:
      'The tug with light in steps, a hard highlight and hatching: another answer to light on a model as it was made.',
  },
  {
    folder: 'bare-metal',
    title: 'Bare metal',
    label: 'A turning ring of rope',
    about:
      'Buffers, a pipeline and a pass by hand: a lit, textured shape in less than 60 lines, without a lens.',
  },
];
