// Light that has bounced once, at a surface: the lit patches (centre, normal, flux given back, area) as small lamps.
// E = sum of flux . cos . cos / (pi d^2 + area), a disc's form factor that stays finite at the disc.
uniform sampler2D uNormal;
uniform sampler2D uDistance;
uniform sampler2D uPatches;  // two texels a patch: centre, area; normal; then flux by colour (lumen given back)
uniform int uPatchCount;
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
    vec4 place = texelFetch(uPatches, ivec2(0, i), 0);
    vec3 facing = texelFetch(uPatches, ivec2(1, i), 0).xyz;
    vec3 flux = texelFetch(uPatches, ivec2(2, i), 0).rgb;
    vec3 to = place.xyz - p;
    float d2 = dot(to, to);
    vec3 way = to * inversesqrt(max(d2, 1e-6));
    // Near a wide patch its middle may lie behind the face although its edge does not.
    float soft_ = min(place.w / (PI * max(d2, 1e-3)), 0.25);
    float here = max((dot(n, way) + soft_) / (1.0 + soft_), 0.0), there = max(-dot(facing, way), 0.0);
    float gain = here * there / (PI * d2 + place.w);
    if (gain > 0.0 && (uBoxCount == 0 || !hidden(p + n * 0.03, place.xyz + facing * 0.03))) sum += flux * gain;
  }
  // How much of the room around stands close by: eight looks round the pixel.
  float open_ = 1.0;
  if (uOcclusion > 0.5) {
    float blocked = 0.0;
    float spread = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715)))) * 6.2832;
    float reach = clamp(0.45 / away * uFull.y, 3.0, 80.0);
    for (int k = 0; k < 8; k++) {
      float turn_ = spread + float(k) * 2.399963;
      vec2 off = vec2(cos(turn_), sin(turn_)) * reach * (float(k) + 0.5) / 8.0;
      ivec2 there = clamp(at + ivec2(off), ivec2(0), ivec2(uFull) - 1);
      float d = texelFetch(uDistance, there, 0).r;
      if (d <= 0.0) continue;
      vec3 so, sd;
      pixelRay((vec2(there) + 0.5) / uFull, so, sd);
      vec3 v = so + sd * d - p;
      float far_ = length(v);
      blocked += max(dot(n, v) / max(far_, 1e-4) - 0.12, 0.0) * (1.0 - smoothstep(0.3, 0.9, far_));
    }
    open_ = clamp(1.0 - blocked / 8.0 * 1.9, 0.25, 1.0);
  }
  colour = vec4(sum, open_);
}
