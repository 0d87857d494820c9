/** One triangle that covers the picture. */
export const FINISH_VERTEX = `#version 300 es
void main() {
  vec2 corner = vec2((gl_VertexID & 1) * 4 - 1, (gl_VertexID >> 1) * 4 - 1);
  gl_Position = vec4(corner, 0.0, 1.0);
}
`;

/** sRGB encoding (IEC 61966-2-1) of premultiplied colour. */
export const FINISH_FRAGMENT = `#version 300 es
precision highp float;
precision highp int;
uniform sampler2D picture;
uniform vec4 umber_target;  // xy size, z 1 when row 0 is at the bottom
out vec4 result;
vec3 encode(vec3 c) {
  return mix(c * 12.92, 1.055 * pow(max(c, vec3(0.0)), vec3(1.0 / 2.4)) - 0.055, step(vec3(0.0031308), c));
}

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  if (umber_target.z > 0.0) at.y = int(umber_target.y) - 1 - at.y;
  vec4 color = texelFetch(picture, at, 0);
  vec3 straight = color.a > 0.0 ? color.rgb / color.a : vec3(0.0);
  result = vec4(encode(clamp(straight, 0.0, 1.0)) * color.a, color.a);
}
`;
