// Light that has bounced, at a surface: the lit patches (centre, normal, flux given back, area) as small lamps, first those
// that beams light, then those that are lit by others.
// E = sum of flux . cos . cos / (pi d^2 + area), a disc's form factor that stays finite at the disc.
uniform sampler2D uAlbedo;
uniform sampler2D uNormal;
uniform sampler2D uDistance;
uniform sampler2D uPatches;  // two texels a patch: centre, area; normal; then flux by colour (lumen given back)
uniform int uPatchCount;
uniform int uFurther;
uniform sampler2D uBoxes;    // three texels a box: middle; half edges; how it is turned
uniform int uBoxCount;
uniform vec2 uSize;
uniform vec2 uCorner;
uniform vec2 uFull;          // pixels of the surface's target
uniform float uOcclusion;    // 1: corners are darkened
layout(location = 0) out vec4 colour;

const float PI = 3.14159265358979;

vec3 turnBack(vec4 q, vec3 v) { vec3 t = 2.0 * cross(-q.xyz, v); return v + q.w * t + cross(-q.xyz, t); }

// Whether one of the large flat things stands between two places.
bool hidden(vec3 from, vec3 to) {
  for (int i = 0; i < uBoxCount; i++) {
    vec4 q = texelFetch(uBoxes, ivec2(2, i), 0);
    vec3 middle = texelFetch(uBoxes, ivec2(0, i), 0).xyz, half_ = texelFetch(uBoxes, ivec2(1, i), 0).xyz - 0.004;
    vec3 a = turnBack(q, from - middle), d = turnBack(q, to - middle) - a;
    vec3 inv = 1.0 / mix(d, vec3(1e-6), lessThan(abs(d), vec3(1e-6)));
    vec3 low = (-half_ - a) * inv, high = (half_ - a) * inv;
    vec3 enter = min(low, high), leave = max(low, high);
    float first = max(max(enter.x, enter.y), max(enter.z, 0.0)), last = min(min(leave.x, leave.y), min(leave.z, 1.0));
    if (first < last) return true;
  }
  return false;
}

// How much a face at p takes of a patch's light; where the patch is, and which way it faces.
vec3 patchAt(int i, vec3 p, vec3 n, out vec3 at, out float gain) {
  vec4 place = texelFetch(uPatches, ivec2(0, i), 0);
  vec3 facing = texelFetch(uPatches, ivec2(1, i), 0).xyz;
  at = place.xyz;
  vec3 to = place.xyz - p;
  float d2 = dot(to, to);
  vec3 way = to * inversesqrt(max(d2, 1e-6));
  // Of a wide patch that the face's own horizon cuts, as much as is above it.
  float wide = min(sqrt(place.w / (PI * max(d2, 1e-3))), 0.6), up = dot(n, way);
  float here = up >= wide ? up : up <= -wide ? 0.0 : (up + wide) * (up + wide) / (4.0 * wide);
  float there = max(-dot(facing, way), 0.0);
  gain = here * there / (PI * d2 + place.w);
  return facing;
}

void main() {
  vec2 uv = (gl_FragCoord.xy - uCorner) / uSize;
  ivec2 at = ivec2(uv * uFull);
  float away = texelFetch(uDistance, at, 0).r;
  colour = vec4(0.0, 0.0, 0.0, 1.0);
  if (away <= 0.0) return;
  vec3 origin, direction;
  pixelRay((vec2(at) + 0.5) / uFull, origin, direction);
  vec3 p = origin + direction * away;
  vec3 n = texelFetch(uNormal, at, 0).xyz;
  vec3 sum = vec3(0.0);
  for (int i = 0; i < uPatchCount; i++) {
    vec3 to;
    float gain;
    vec3 facing = patchAt(i, p, n, to, gain);
    if (gain > 0.0 && (uBoxCount == 0 || !hidden(p + n * 0.03, to + facing * 0.03))) sum += texelFetch(uPatches, ivec2(2, i), 0).rgb * gain;
  }
  // What has bounced more often comes from everywhere: nothing stands in its way alone.
  for (int i = uPatchCount; i < uPatchCount + uFurther; i++) {
    vec3 to;
    float gain;
    patchAt(i, p, n, to, gain);
    sum += texelFetch(uPatches, ivec2(2, i), 0).rgb * gain;
  }
  // Eight looks round the pixel. What stands very close, such as feet on a floor, keeps light off; walls and steps a little
  // further, nearer than the middle of any patch, give back what falls on them, about as much as falls here.
  float open_ = 1.0;
  if (uOcclusion > 0.5) {
    float blocked = 0.0;
    vec3 given = vec3(0.0);
    float spread = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715)))) * 6.2832;
    float reach = clamp(0.9 / away * uFull.y, 3.0, 160.0);
    for (int k = 0; k < 8; k++) {
      float turn_ = spread + float(k) * 2.399963, part = (float(k) + 0.5) / 8.0;
      vec2 off = vec2(cos(turn_), sin(turn_)) * reach * part * part;
      ivec2 there = clamp(at + ivec2(off), ivec2(0), ivec2(uFull) - 1);
      float d = texelFetch(uDistance, there, 0).r;
      if (d <= 0.0) continue;
      vec3 so, sd;
      pixelRay((vec2(there) + 0.5) / uFull, so, sd);
      vec3 v = so + sd * d - p;
      float far_ = length(v), rises = max(dot(n, v) / max(far_, 1e-4) - 0.12, 0.0);
      vec3 root = texelFetch(uAlbedo, there, 0).rgb;
      blocked += rises * (1.0 - smoothstep(0.06, 0.2, far_));
      given += root * root * (rises * (1.0 - smoothstep(0.5, 1.1, far_)));
    }
    open_ = clamp(1.0 - blocked / 8.0 * 1.9, 0.25, 1.0);
    sum /= 1.0 - min(given * 0.5, 0.6);
  }
  colour = vec4(sum, open_);
}
