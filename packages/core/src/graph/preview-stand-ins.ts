import type { Graph, GraphFunction, GraphValue } from './document.js';

/** What nodes ask for that a surface does not have, made of what it has. */
export interface StandIns {
  /** Nodes, by names that no graph has. */
  nodes: Readonly<Record<string, GraphValue>>;
  /** What references name, by what stands there instead: `@p.normal` by the node that `p` is. */
  names: Readonly<Record<string, string>>;
  functions: Readonly<Record<string, GraphFunction>>;
  declarations: readonly string[];
}

/** Shapes stand beside each other: each counts from its own middle. */
const PLACE = `fn previewPlace(p: Fragment, middle: vec3f) -> Fragment {
  var out = p;
  out.position -= middle;
  return out;
}`;

/** A light for nodes that ask for one. */
const LIGHT = `fn previewLight(direction: vec3f) -> Light {
  return Light(normalize(direction), vec3f(3), 0);
}`;

/** The vertex that would stand there. */
const VERTEX = `fn previewVertex(p: Fragment) -> Vertex {
  return Vertex(p.objectPosition, p.objectNormal, p.tangent, p.texcoord0, p.texcoord1, p.color, 0, 0, p.objectToWorld);
}`;

/** The ray that meets the shape there, in its own space: from two of its metres before it. */
const RAY = `fn previewRay(p: Fragment) -> Ray {
  let m = p.objectToWorld;
  let way = vec3f(dot(cross(m[1], m[2]), p.toCamera), dot(cross(m[2], m[0]), p.toCamera), dot(cross(m[0], m[1]), p.toCamera));
  let back = way / max(length(way), 1e-12);
  return Ray(p.objectPosition + 2 * back, -back);
}`;

/** A picture that effects are tried on: a rock with a light tower before the evening sun, over water. As screens have it. */
const PICTURE = `fn previewPicture(place: vec2f) -> vec4f {
  let at = saturate(place);
  let sky = mix(vec3f(0.2, 0.35, 0.58), vec3f(0.98, 0.76, 0.5), smoothstep(0.0, 0.6, at.y));
  let sun = smoothstep(0.1, 0.085, length(at - vec2f(0.7, 0.42)));
  var color = mix(sky, vec3f(1, 0.95, 0.78), sun);
  let away = saturate((at.y - 0.6) / 0.4);
  let glint = 0.5 * smoothstep(0.18, 0.0, abs(at.x - 0.7)) * step(0.55, fract(sqrt(away) * 9));
  if at.y > 0.6 { color = mix(vec3f(0.72, 0.6, 0.5), vec3f(0.07, 0.2, 0.3), sqrt(away)) + glint; }
  let thing = previewThing(at);
  if thing == 1 { color = vec3f(0.2, 0.16, 0.16) * (1.4 - at.y); }
  if thing == 2 { color = mix(vec3f(0.95, 0.93, 0.88), vec3f(0.8, 0.2, 0.14), step(0.5, fract(at.y * 9))) * (0.6 + 3 * (at.x - 0.26)); }
  return vec4f(saturate(color), 1);
}`;
/** 0: nothing; 1: rock; 2: the tower. */
const THING = `fn previewThing(at: vec2f) -> i32 {
  let aside = (at.x - 0.32) / 0.2;
  if at.y < 0.72 && at.y > 0.72 - 0.26 * exp(-aside * aside) { return 1; }
  return select(0, 2, abs(at.x - 0.32) < 0.06 - 0.04 * (0.5 - at.y) && at.y > 0.14 && at.y < 0.5);
}`;
/** Metres. */
const AWAY = `fn previewAway(at: vec2f) -> f32 {
  if previewThing(at) > 0 { return 12; }
  return select(1e6, 2 / max(at.y - 0.6, 1e-3), at.y > 0.602);
}`;
const PIXEL = `fn previewPixel(p: Fragment, time: f32, delta: f32) -> PreviewPixel {
  let size = vec2f(256);
  return PreviewPixel(p.texcoord0 * size, p.texcoord0, size, previewPicture(p.texcoord0), time, delta);
}`;
/** As `Pixel` of pixel.wgsl, which brings what effects bind. */
const PIXEL_STRUCT = `struct PreviewPixel {
  position: vec2f,
  place: vec2f,
  size: vec2f,
  color: vec4f,
  time: f32,
  delta: f32,
}`;

/** What effects ask of the picture, by its name. */
const PICTURES: Readonly<Record<string, string>> = {
  colorAt: 'fn colorAt(place: vec2f) -> vec4f { return previewPicture(place); }',
  colorOf: 'fn colorOf(pixel: vec2i) -> vec4f { return previewPicture((vec2f(pixel) + 0.5) / 256); }',
  secondAt: 'fn secondAt(place: vec2f) -> vec4f { return previewPicture(vec2f(1 - place.x, place.y)); }',
  beforeAt: 'fn beforeAt(place: vec2f) -> vec4f { return previewPicture(place + vec2f(0.02, 0)); }',
  depthAt:
    'fn depthAt(place: vec2f) -> f32 { return select(0.0, 0.1 / previewAway(place), previewAway(place) < 1e5); }',
  distanceAt: 'fn distanceAt(place: vec2f) -> f32 { return previewAway(place); }',
  normalAt: `fn normalAt(place: vec2f) -> vec3f {
  if previewThing(place) > 0 { return normalize(vec3f((place.x - 0.32) * 6, 0.2, 1)); }
  return select(vec3f(), vec3f(0, 1, 0), place.y > 0.6);
}`,
  velocityAt: `fn velocityAt(place: vec2f) -> vec2f {
  return select(vec2f(0.004, 0), vec2f(0.02, 0), previewThing(place) > 0);
}`,
  maskAt: 'fn maskAt(place: vec2f) -> f32 { return select(0.0, 1.0, previewThing(place) == 2); }',
};

const ARGUMENTS = ['p', 'v', 'ray', 'l', 'defaults', 'litColor'] as const;
type Argument = (typeof ARGUMENTS)[number];

/** What stands for a name that graphs know beside their nodes. */
const STANDS: Readonly<
  Record<Argument, { node: GraphValue; needs: readonly Argument[]; functions?: Record<string, string> }>
> = {
  p: {
    node: { call: 'previewPlace', in: ['@p', '@instance.previewMiddle'] },
    needs: [],
    functions: { previewPlace: PLACE },
  },
  v: {
    node: { call: 'previewVertex', in: ['@preview p'] },
    needs: ['p'],
    functions: { previewVertex: VERTEX },
  },
  ray: {
    node: { call: 'previewRay', in: ['@preview p'] },
    needs: ['p'],
    functions: { previewRay: RAY },
  },
  l: {
    node: { call: 'previewLight', in: ['@settings.previewLight'] },
    needs: [],
    functions: { previewLight: LIGHT },
  },
  defaults: { node: { call: 'surfaceDefaults', in: ['@preview p'] }, needs: ['p'] },
  litColor: { node: { value: [0.5, 0.5, 0.5, 1] }, needs: [] },
};

/** What those of effects build on. */
const OF_EFFECTS = { previewPixel: PIXEL, previewPicture: PICTURE, previewThing: THING, previewAway: AWAY };
/** What has time is drawn again and again: only where it is asked for. */
const pixelNode = (text: string): GraphValue => ({
  call: 'previewPixel',
  in: ['@p', ...['time', 'delta'].map((name) => (text.includes(`"@p.${name}`) ? `@frame.${name}` : 0))],
});

/** What stands for what a graph's nodes ask for. */
export function standInsFor(graph: Graph): StandIns {
  const isEffect = graph.hooks.effect !== undefined;
  const text = JSON.stringify([graph.nodes, graph.functions]);
  const asked = new Set<Argument>();
  const ask = (name: Argument): void => {
    if (asked.has(name)) return;
    asked.add(name);
    STANDS[name].needs.forEach(ask);
  };
  // No node has such a name.
  for (const name of ARGUMENTS) if (new RegExp(`"@${name}\\b`).test(text)) ask(name);
  const nodes: Record<string, GraphValue> = {};
  const codes: Record<string, string> = {};
  for (const name of asked) {
    const isPixel = isEffect && name === 'p';
    nodes[`preview ${name}`] = isPixel ? pixelNode(text) : STANDS[name].node;
    if (!isPixel) Object.assign(codes, STANDS[name].functions);
  }
  if (isEffect) {
    Object.assign(codes, OF_EFFECTS);
    for (const [name, code] of Object.entries(PICTURES))
      if (new RegExp(`\\b${name}\\b`).test(text)) codes[name] = code;
  }
  return {
    nodes,
    names: Object.fromEntries([...asked].map((name) => [name, `preview ${name}`])),
    functions: Object.fromEntries(Object.entries(codes).map(([name, code]) => [name, { code }])),
    declarations: isEffect ? [PIXEL_STRUCT] : [],
  };
}
