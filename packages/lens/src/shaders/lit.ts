/**
 * The lit and the unlit surface, in GLSL ES 3.00. `features` are FEATURE bits of core.
 *
 * Formulas: glTF 2.0, appendix B (GGX distribution, height-correlated Smith visibility, Schlick
 * Fresnel); KHR_lights_punctual for fall-off; Karis, "Physically Based Shading on Mobile" (2014) for
 * the specular part of the ambient term.
 */
import { FEATURE } from '@umber-lens/core';
import { COLOR } from './color.js';
import { LIGHTING } from './lighting.js';

/** Attribute locations by name. Instances take three rows of their world transform. */
export const LOCATION = {
  position: 0,
  normal: 1,
  tangent: 2,
  texcoord0: 3,
  texcoord1: 4,
  color0: 5,
  instance: 6,
} as const;

/** Lights that one picture can have. */
export const MOST_LIGHTS = 64;

/** Floats of the frame block: see `Frame` below. */
export const FRAME_FLOATS = 32;
/** Floats of one light. */
export const LIGHT_FLOATS = 16;

const HEADER = `#version 300 es
precision highp float;
precision highp int;
`;

const BLOCKS = `
layout(std140) uniform Frame {
  mat4 viewProjection;
  vec4 eye;            // xyz position in the world, w exposure
  vec4 ambientSky;     // rgb, w number of lights
  vec4 ambientGround;  // rgb
  vec4 forward;        // xyz way the camera looks, w 1 when rays are parallel
};
struct Light {
  vec4 position;   // xyz, w 1 / range, 0 for no limit
  vec4 direction;  // xyz way the light travels, w 1 when directional
  vec4 color;      // rgb times intensity
  vec4 cone;       // x scale, y offset of the cosine
};
layout(std140) uniform Lights {
  Light lights[${MOST_LIGHTS}];
};
struct TextureUse {
  vec4 matrix;
  vec4 offset;  // xy, z coordinate set
};
layout(std140) uniform Material {
  vec4 baseColorFactor;
  vec4 emissive;  // rgb, w alpha cutoff
  vec4 factors;   // metallic, roughness, normal scale, occlusion strength
  TextureUse uses[5];
};
`;

function defines(features: number): string {
  return Object.entries(FEATURE)
    .filter(([, bit]) => (features & bit) !== 0)
    .map(([name]) => `#define HAS_${name.replace(/[A-Z]/g, (c) => `_${c}`).toUpperCase()}\n`)
    .join('');
}

export function litVertex(features: number): string {
  return `${HEADER}${defines(features)}${BLOCKS}
layout(location = ${LOCATION.position}) in vec3 position;
layout(location = ${LOCATION.instance}) in vec4 row0;
layout(location = ${LOCATION.instance + 1}) in vec4 row1;
layout(location = ${LOCATION.instance + 2}) in vec4 row2;
out vec3 worldPosition;
#ifdef HAS_NORMAL
layout(location = ${LOCATION.normal}) in vec3 normal;
out vec3 worldNormal;
#endif
#ifdef HAS_TANGENT
layout(location = ${LOCATION.tangent}) in vec4 tangent;
out vec3 worldTangent;
out vec3 worldBitangent;
#endif
#ifdef HAS_TEXCOORD0
layout(location = ${LOCATION.texcoord0}) in vec2 texcoord0;
out vec2 uv0;
#endif
#ifdef HAS_TEXCOORD1
layout(location = ${LOCATION.texcoord1}) in vec2 texcoord1;
out vec2 uv1;
#endif
#ifdef HAS_COLOR
layout(location = ${LOCATION.color0}) in vec4 color0;
out vec4 vertexColor;
#endif

void main() {
  vec4 local = vec4(position, 1.0);
  worldPosition = vec3(dot(row0, local), dot(row1, local), dot(row2, local));
  gl_Position = viewProjection * vec4(worldPosition, 1.0);
#ifdef HAS_NORMAL
  // Rows of the cofactor matrix: the inverse transpose times the determinant, whose sign is undone.
  vec3 c0 = cross(row1.xyz, row2.xyz);
  vec3 c1 = cross(row2.xyz, row0.xyz);
  vec3 c2 = cross(row0.xyz, row1.xyz);
  float handed = dot(row0.xyz, c0) < 0.0 ? -1.0 : 1.0;
  worldNormal = vec3(dot(c0, normal), dot(c1, normal), dot(c2, normal)) * handed;
#ifdef HAS_TANGENT
  vec3 n = normalize(worldNormal);
  worldTangent = vec3(dot(row0.xyz, tangent.xyz), dot(row1.xyz, tangent.xyz), dot(row2.xyz, tangent.xyz));
  worldBitangent = cross(n, worldTangent) * tangent.w * handed;
  worldNormal = n;
#endif
#endif
#ifdef HAS_TEXCOORD0
  uv0 = texcoord0;
#endif
#ifdef HAS_TEXCOORD1
  uv1 = texcoord1;
#endif
#ifdef HAS_COLOR
  vertexColor = color0;
#endif
}
`;
}

export function litFragment(features: number): string {
  return `${HEADER}${defines(features)}${BLOCKS}
uniform sampler2D baseColorTexture;
uniform sampler2D metallicRoughnessTexture;
uniform sampler2D normalTexture;
uniform sampler2D occlusionTexture;
uniform sampler2D emissiveTexture;
in vec3 worldPosition;
#ifdef HAS_NORMAL
in vec3 worldNormal;
#endif
#ifdef HAS_TANGENT
in vec3 worldTangent;
in vec3 worldBitangent;
#endif
#ifdef HAS_TEXCOORD0
in vec2 uv0;
#endif
#ifdef HAS_TEXCOORD1
in vec2 uv1;
#endif
#ifdef HAS_COLOR
in vec4 vertexColor;
#endif
layout(location = 0) out vec4 result;

vec2 coordinates(int slot) {
  vec2 uv = vec2(0.0);
#ifdef HAS_TEXCOORD0
  uv = uv0;
#endif
#ifdef HAS_TEXCOORD1
  if (uses[slot].offset.z > 0.5) uv = uv1;
#endif
  vec4 m = uses[slot].matrix;
  return vec2(dot(m.xy, uv), dot(m.zw, uv)) + uses[slot].offset.xy;
}
#ifndef HAS_UNLIT
${COLOR}${LIGHTING}

vec3 surfaceNormal() {
#ifdef HAS_NORMAL
  vec3 n = normalize(worldNormal);
#else
  // Screen-space derivatives span the face; their order follows the target's own y.
  vec3 n = normalize(cross(dFdx(worldPosition), dFdy(worldPosition)));
  vec3 toEye = mix(eye.xyz - worldPosition, -forward.xyz, forward.w);
  n = faceforward(n, -toEye, n);
#endif
#ifdef HAS_NORMAL
  if (!gl_FrontFacing) n = -n;
#endif
#ifdef HAS_NORMAL_TEXTURE
  vec3 s = texture(normalTexture, coordinates(2)).xyz * 2.0 - 1.0;
  s.xy *= factors.z;
#ifdef HAS_TANGENT
  float side = gl_FrontFacing ? 1.0 : -1.0;
  vec3 t = normalize(worldTangent) * side;
  vec3 b = normalize(worldBitangent) * side;
#else
  // Tangents from derivatives (Schueler, "Normal Mapping Without Precomputed Tangents", ShaderX5).
  vec2 uv = coordinates(2);
  vec3 px = dFdx(worldPosition);
  vec3 py = dFdy(worldPosition);
  vec2 ux = dFdx(uv);
  vec2 uy = dFdy(uv);
  vec3 crossY = cross(py, n);
  vec3 crossX = cross(n, px);
  vec3 t = crossY * ux.x + crossX * uy.x;
  vec3 b = -(crossY * ux.y + crossX * uy.y);
  float longest = max(dot(t, t), dot(b, b));
  float handed = dot(cross(px, py), n) < 0.0 ? -1.0 : 1.0;
  float size = longest > 0.0 ? handed * inversesqrt(longest) : 0.0;
  t *= size;
  b *= size;
#endif
  n = normalize(t * s.x + b * s.y + n * s.z);
#endif
  return n;
}
#endif

void main() {
  vec4 base = baseColorFactor;
#ifdef HAS_BASE_COLOR_TEXTURE
  base *= texture(baseColorTexture, coordinates(0));
#endif
#ifdef HAS_COLOR
  base *= vertexColor;
#endif
#ifdef HAS_MASK
  if (base.a < emissive.w) discard;
  base.a = 1.0;
#else
#ifndef HAS_BLEND
  base.a = 1.0;
#endif
#endif
#ifdef HAS_UNLIT
  vec3 color = base.rgb;
#else
  Surface surface;
  surface.position = worldPosition;
  surface.normal = surfaceNormal();
  surface.toEye = normalize(mix(eye.xyz - worldPosition, -forward.xyz, forward.w));
  float metallic = factors.x;
  float roughness = factors.y;
#ifdef HAS_METALLIC_ROUGHNESS_TEXTURE
  vec4 mr = texture(metallicRoughnessTexture, coordinates(1));
  roughness *= mr.g;
  metallic *= mr.b;
#endif
  float occlusion = 1.0;
#ifdef HAS_OCCLUSION_TEXTURE
  occlusion = 1.0 + factors.w * (texture(occlusionTexture, coordinates(3)).r - 1.0);
#endif
  surface.diffuse = base.rgb * (1.0 - metallic);
  surface.f0 = mix(vec3(0.04), base.rgb, metallic);
  surface.roughness = clamp(roughness, 0.045, 1.0);
  vec3 color = ambient(surface) * occlusion;
  int count = int(ambientSky.w);
  for (int i = 0; i < count; i++) color += shine(surface, lights[i]);
  vec3 glow = emissive.rgb;
#ifdef HAS_EMISSIVE_TEXTURE
  glow *= texture(emissiveTexture, coordinates(4)).rgb;
#endif
  color = toneMap((color + glow) * eye.w);
#endif
  result = vec4(color * base.a, base.a);
}
`;
}
