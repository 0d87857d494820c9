/** Answers of a surface to light. Units: lux for directional lights, candela for the others. */
export const LIGHTING = `
const float PI = 3.14159265358979;

struct Surface {
  vec3 position;
  vec3 normal;
  vec3 toEye;
  vec3 diffuse;
  vec3 f0;
  float roughness;
};

/* GGX (Trowbridge-Reitz) distribution; a2 is roughness to the fourth. */
float distribution(float nh, float a2) {
  float f = nh * nh * (a2 - 1.0) + 1.0;
  return a2 / (PI * f * f);
}

/* Height-correlated Smith visibility: G / (4 nl nv). */
float visibility(float nl, float nv, float a2) {
  float v = nl * sqrt(nv * nv * (1.0 - a2) + a2);
  float l = nv * sqrt(nl * nl * (1.0 - a2) + a2);
  float sum = v + l;
  return sum > 0.0 ? 0.5 / sum : 0.0;
}

vec3 schlick(vec3 f0, float vh) {
  float f = 1.0 - vh;
  float f2 = f * f;
  return f0 + (1.0 - f0) * (f2 * f2 * f);
}

/* Radiance that one light sends to the eye by way of the surface. */
vec3 shine(Surface s, Light light) {
  vec3 toLight = -light.direction.xyz;
  float attenuation = 1.0;
  if (light.direction.w < 0.5) {
    vec3 way = light.position.xyz - s.position;
    float squared = max(dot(way, way), 1e-8);
    toLight = way * inversesqrt(squared);
    float ratio = squared * light.position.w * light.position.w;
    attenuation = clamp(1.0 - ratio * ratio, 0.0, 1.0) / squared;
    float cone = clamp(dot(-toLight, light.direction.xyz) * light.cone.x + light.cone.y, 0.0, 1.0);
    attenuation *= cone * cone;
  }
  float nl = dot(s.normal, toLight);
  if (nl <= 0.0 || attenuation <= 0.0) return vec3(0.0);
  vec3 halfway = normalize(toLight + s.toEye);
  float nv = max(dot(s.normal, s.toEye), 1e-4);
  float nh = clamp(dot(s.normal, halfway), 0.0, 1.0);
  float vh = clamp(dot(s.toEye, halfway), 0.0, 1.0);
  float a = s.roughness * s.roughness;
  vec3 f = schlick(s.f0, vh);
  vec3 specular = f * (distribution(nh, a * a) * visibility(nl, nv, a * a));
  vec3 diffuse = (1.0 - f) * s.diffuse / PI;
  return (diffuse + specular) * light.color.rgb * (nl * attenuation);
}

/* Light from all around: a sky above and a ground below, as radiance. */
vec3 ambient(Surface s) {
  vec3 around = mix(ambientGround.rgb, ambientSky.rgb, s.normal.y * 0.5 + 0.5);
  vec3 reflected = reflect(-s.toEye, s.normal);
  vec3 mirrored = mix(ambientGround.rgb, ambientSky.rgb, reflected.y * 0.5 + 0.5);
  float nv = clamp(dot(s.normal, s.toEye), 0.0, 1.0);
  vec4 r = s.roughness * vec4(-1.0, -0.0275, -0.572, 0.022) + vec4(1.0, 0.0425, 1.04, -0.04);
  float a = min(r.x * r.x, exp2(-9.28 * nv)) * r.x + r.y;
  vec2 ab = vec2(-1.04, 1.04) * a + r.zw;
  return s.diffuse * around + (s.f0 * ab.x + ab.y) * mirrored;
}
`;
