/** The shader of shaders/lit.wgsl as a hand would write it in GLSL. */
export const LIT_BY_HAND = `#version 300 es
precision highp float;
precision highp int;
struct Light { vec4 position; vec4 color; };
layout(std140) uniform scene_block { uint count; float roughness; float metallic; float time; Light lights[8]; };
out vec4 result;
const float PI = 3.14159265358979;
float distribution(float nh, float a2) { float f = nh * nh * (a2 - 1.0) + 1.0; return a2 / (PI * f * f); }
float visibility(float nl, float nv, float a2) {
  float v = nl * sqrt(nv * nv * (1.0 - a2) + a2);
  float l = nv * sqrt(nl * nl * (1.0 - a2) + a2);
  return 0.5 / max(v + l, 1e-6);
}
vec3 schlick(vec3 f0, float vh) { float f = 1.0 - vh; float f2 = f * f; return f0 + (1.0 - f0) * (f2 * f2 * f); }
void main() {
  vec2 p = (vec2(gl_FragCoord.x, gl_FragCoord.y) - vec2(160.0, 100.0)) / 90.0;
  float r2 = dot(p, p);
  if (r2 > 1.0) { result = vec4(0.02, 0.03, 0.05, 1.0); return; }
  vec3 n = vec3(p, sqrt(1.0 - r2));
  vec3 toCamera = vec3(0.0, 0.0, 1.0);
  vec3 base = vec3(0.8, 0.5, 0.3);
  vec3 diffuse = base * (1.0 - metallic);
  vec3 f0 = mix(vec3(0.04), base, metallic);
  vec3 color = vec3(0.0);
  for (uint i = 0u; i < count; i++) {
    vec3 way = lights[i].position.xyz - n;
    float squared = max(dot(way, way), 1e-6);
    vec3 toLight = way * inversesqrt(squared);
    float nl = dot(n, toLight);
    if (nl <= 0.0) continue;
    vec3 halfway = normalize(toLight + toCamera);
    float nv = max(dot(n, toCamera), 1e-4);
    float nh = clamp(dot(n, halfway), 0.0, 1.0);
    float vh = clamp(dot(toCamera, halfway), 0.0, 1.0);
    float a = roughness * roughness;
    vec3 f = schlick(f0, vh);
    vec3 specular = f * (distribution(nh, a * a) * visibility(nl, nv, a * a));
    color += ((1.0 - f) * diffuse / PI + specular) * lights[i].color.rgb * (nl / squared);
  }
  result = vec4(sqrt(color / (1.0 + color)), 1.0);
}
`;
