// Beam state as it comes: the poses of bodies, and what pack.frag.glsl makes a Beam of, once a frame.
// Static texels for each beam (metres, show frame): 0 clamp position, lens radius; 1 clamp quaternion;
// 2 offset to the pan axis, peak candela; 3 offset to the tilt axis, zero of pan; 4 offset to the lens, zero of tilt;
// 5 quaternion of the lens against the head; 6 whether pan and tilt are those of a mirror. The clamp's quaternion has the chain's own turn in it.
// Dynamic texels, as the frame has them (core/picture.py FIELDS; colours times peak candela):
// 0 pan, tilt, full field angle, full beam angle (radians); 1 candela per colour, hard 0 or 1;
// 2 iris, strobe Hz, focus, frost; 3 gobo, its turn, its spin, prism; 4 gobo 2, turn, spin, prism turn;
// 5 blade depths; 6 blade angles; 7 turn of the blades, prism spin, frost gain, web;
// 8 pan, tilt, field, beam of the frame before; 9 shadow tile + 1, kind of strobe, sharp at.
precision highp float;
precision highp int;
precision highp sampler2D;
uniform sampler2D uStatic;
uniform sampler2D uDynamic;
uniform sampler2D uPrisms;   // a row each: count, reach (gate radii); then x, y (gate radii), turn (radians) of each facet
uniform sampler2D uGoboMeans; // by layer: how much light goes through on the whole
uniform float uTime;         // the server's clock, seconds, modulo 4096
uniform float uMix;          // 0: the frame before, 1: the frame that came last

const int PER_ROW = 64;
const int STATIC_TEXELS = 7;
const int DYNAMIC_TEXELS = 10;

vec4 staticTexel(int beam, int k) { return texelFetch(uStatic, ivec2((beam % PER_ROW) * STATIC_TEXELS + k, beam / PER_ROW), 0); }
vec4 dynamicTexel(int beam, int k) { return texelFetch(uDynamic, ivec2((beam % PER_ROW) * DYNAMIC_TEXELS + k, beam / PER_ROW), 0); }
vec4 attitude(int beam) { return mix(dynamicTexel(beam, 8), dynamicTexel(beam, 0), uMix); }

vec3 turn(vec4 q, vec3 v) { vec3 t = 2.0 * cross(q.xyz, v); return v + q.w * t + cross(q.xyz, t); }
vec3 aboutZ(float a, vec3 v) { float c = cos(a), s = sin(a); return vec3(c * v.x - s * v.y, s * v.x + c * v.y, v.z); }
vec3 aboutX(float a, vec3 v) { float c = cos(a), s = sin(a); return vec3(v.x, c * v.y - s * v.z, s * v.y + c * v.z); }

vec2 angles(int beam) { return attitude(beam).xy + vec2(staticTexel(beam, 3).w, staticTexel(beam, 4).w); }

// A point or direction of a part that stays (0), pans (1) or pans and tilts (2), in the show's frame.
vec3 posed(int beam, int turns, vec3 p, float isPoint) {
  vec2 angle = angles(beam);
  if (turns == 2) p = aboutX(angle.y, p) + isPoint * staticTexel(beam, 3).xyz;
  if (turns >= 1) p = aboutZ(angle.x, p) + isPoint * staticTexel(beam, 2).xyz;
  return turn(staticTexel(beam, 1), p) + isPoint * staticTexel(beam, 0).xyz;
}

// A direction of the lens' own frame, in the show's: by head_turn of core/aiming/solve.py.
vec3 shone(int beam, vec3 p) {
  p = turn(staticTexel(beam, 5), p);
  if (staticTexel(beam, 6).x < 0.5) return posed(beam, 2, p, 0.0);
  vec2 angle = angles(beam);
  p = aboutX(2.0 * angle.y - PI, aboutZ(angle.x, p));
  return turn(staticTexel(beam, 1), aboutZ(angle.x, p));
}

float scatter(float a, float b) { return fract(sin(a * 12.9898 + b * 78.233) * 43758.5453); }

// How open a lamp is that flashes: by STROBE_KINDS of core/dmx/features.py, at a rate in Hz.
float flash(float hz, float kind, float lamp) {
  float at = uTime * hz, part = fract(at);
  if (kind < 0.5) return step(part, 0.5);
  if (kind < 1.5) return 0.5 - 0.5 * cos(2.0 * PI * part);
  if (kind < 2.5) return part;
  if (kind < 3.5) return 1.0 - part;
  float chance = scatter(mod(floor(at), 4096.0), lamp);
  if (kind < 4.5) return step(0.5, chance);
  return step(0.45, chance) * exp(-5.0 * part) * step(0.25, fract(part * (3.0 + floor(chance * 4.0))));
}

// What blades and gobos let through on the whole: a blade at depth d cuts off the segment beyond its chord.
float openShare(vec4 depths, float gobo, float second) {
  float open_ = texelFetch(uGoboMeans, ivec2(int(gobo + 0.5), 0), 0).r * texelFetch(uGoboMeans, ivec2(int(second + 0.5), 0), 0).r;
  for (int k = 0; k < 4; k++) {
    float from = clamp(1.0 - depths[k], -1.0, 1.0);
    if (depths[k] > 0.002) open_ *= 1.0 - (acos(from) - from * sqrt(1.0 - from * from)) / PI;
  }
  return open_;
}

// Blades come from the top, left, bottom and right, each turned about the middle of its edge, all about the axis.
void setBlades(inout Beam beam, vec4 depths, vec4 angles, float turn_) {
  vec4 around = turn_ + PI * 0.5 * vec4(1.0, 2.0, 3.0, 4.0);
  beam.bladeX = cos(around + angles);
  beam.bladeY = sin(around + angles);
  beam.bladeAt = (1.0 - depths) * (cos(around) * beam.bladeX + sin(around) * beam.bladeY);
  vec4 out_ = vec4(lessThanEqual(depths, vec4(0.002)));
  beam.bladeAt = mix(beam.bladeAt, vec4(1e4), out_);
  beam.bladed = 1.0 - out_.x * out_.y * out_.z * out_.w;
}

Beam fetchBeam(int i) {
  Beam beam;
  vec4 a = attitude(i), c = dynamicTexel(i, 1), d = dynamicTexel(i, 2), g = dynamicTexel(i, 3), h = dynamicTexel(i, 4);
  vec4 w = dynamicTexel(i, 7);
  beam.lens = posed(i, 2, staticTexel(i, 4).xyz, 1.0);
  beam.along = shone(i, vec3(0.0, 0.0, -1.0));
  beam.side = shone(i, vec3(1.0, 0.0, 0.0));
  beam.radius = staticTexel(i, 0).w;
  beam.hard = c.w;
  beam.b = max(a.w, 0.002);
  beam.f = max(a.z, beam.b * mix(1.1, 1.0, step(0.5, beam.hard)));
  beam.half_ = min(beam.f * 0.5, 1.5);
  beam.f = 2.0 * beam.half_;
  beam.wide = tan(beam.half_);
  beam.power = clamp(log(log2(10.0)) / log(beam.f / beam.b), 1.0, 12.6);
  float ub = tan(beam.b * 0.5) / beam.wide;
  beam.hot = beam.b < beam.f * 0.999 ? clamp(0.5 / (ub * ub), 0.0, 0.9) : 0.1;
  float gate = d.y > 0.05 ? flash(d.y, dynamicTexel(i, 9).y, float(i)) : 1.0;
  beam.candela = c.xyz * gate;
  beam.stop = vec4(d.x, d.z, d.w, w.z);
  float first = g.y + g.z * uTime, second = h.y + h.z * uTime, prism = h.w + w.y * uTime;
  beam.gobos = vec4(g.x, cos(first), sin(first), h.x);
  beam.gobo2 = vec2(cos(second), sin(second));
  beam.prism = vec3(g.w, cos(prism), sin(prism));
  beam.tile = dynamicTexel(i, 9).x;
  setBlades(beam, dynamicTexel(i, 5), dynamicTexel(i, 6), w.x);
  beam.web = w.w;
  // A web is measured from the lens plane.
  beam.apex = beam.web > 0.5 ? 0.002 : beam.radius / beam.wide;
  float soft_ = tan(min(1.5 * beam.half_, 1.5));
  beam.sharp = dynamicTexel(i, 9).z;
  float rim = beam.wide * (1.0 + 0.012 + 0.35 * (beam.sharp > 0.0 ? 1.0 : 1.0 - d.z));
  beam.outer = mix(soft_, rim, step(0.5, beam.hard));
  if (d.w > 0.001) beam.outer = max(beam.outer, tan(min(0.75 * min(beam.f + FROST_WIDER, RIM_MOST), 1.5)));
  if (g.w > 0.5) beam.outer += beam.wide * texelFetch(uPrisms, ivec2(0, int(g.w + 0.5) - 1), 0).y;
  beam.open_ = beam.hard > 0.5 ? mix(openShare(dynamicTexel(i, 5), g.x, h.x), 1.0, d.w) : openShare(dynamicTexel(i, 5), 0.0, 0.0);
  return beam;
}
