// A beam as pools, lenses and shafts take it, and where it is kept: packed once a frame (pack.frag.glsl), thirteen texels each.
precision highp float;
precision highp int;
precision highp sampler2D;
const float PI = 3.14159265358979;
const int PACKED_ROW = 64;
const int PACKED_TEXELS = 13;

struct Beam {
  vec3 lens;     // centre of the lens
  vec3 along;    // unit direction
  vec3 side;     // unit, the head's X
  float radius;  // of the lens
  float half_;   // half field angle, radians
  float b;       // full beam angle
  float f;       // full field angle, at least 1.1 b for a soft edge
  float outer;   // tangent of the half angle where nothing is left
  vec3 candela;
  float open_;   // what gobos and blades let through on the whole, 0..1
  float hard;
  vec4 stop;     // iris, focus, frost, frost gain
  float sharp;   // metres from the lens at which the gate is sharp, 0: by the focus
  vec4 gobos;    // layer of the first gobo, cosine and sine of its turn; layer of the second
  vec2 gobo2;    // cosine and sine of the second one's turn
  vec3 prism;    // its number, cosine and sine of its turn
  vec4 bladeX;   // blades as half planes: what is further along (X, Y) than At is cut off
  vec4 bladeY;
  vec4 bladeAt;
  float bladed;  // 1: any blade is in
  float tile;    // shadow tile + 1
  float apex;    // distance from the virtual apex to the lens
  float web;     // layer of its photometric web, 0: by the formula
  float wide;    // tangent of half the field
  float power;   // exponent of a soft edge
  float hot;     // how much a hard beam falls off to its rim
};

const float FROST_WIDER = 0.20943951;  // 12 degrees, as core/optics/beam.py
const float RIM_MOST = 2.9670597;

bool dark(Beam beam) { return max(max(beam.candela.r, beam.candela.g), beam.candela.b) < 0.5; }

// Which programs draw it: 0 something in its gate (gobo, prism, blade), 1 plain, 2 dark, 3 spread by a web or by frost.
float kindOf(Beam beam) {
  if (dark(beam)) return 2.0;
  if (beam.web > 0.5) return 3.0;
  bool gate = beam.gobos.x > 0.5 || beam.gobos.w > 0.5 || beam.prism.x > 0.5 || beam.bladed > 0.5;
  return gate ? 0.0 : beam.stop.z > 0.001 ? 3.0 : 1.0;
}

// The packed order: 0 virtual apex, its distance behind the lens; 1 direction, 1 + the squared tangent where nothing is left;
// 2 side, beam angle; 3 candela, hard; 4 stop; 5 gobos; 6 second gobo's angle, prism, tile; 7 to 9 blades; 10 outer, lens
// radius, web, wide; 11 power, hot, half field, kind; 12 prism's angle, open, sharp.
vec4 packedTexel(Beam beam, int k) {
  if (k == 0) return vec4(beam.lens - beam.along * beam.apex, beam.apex);
  if (k == 1) return vec4(beam.along, 1.0 + beam.outer * beam.outer);
  if (k == 2) return vec4(beam.side, beam.b);
  if (k == 3) return vec4(beam.candela, beam.hard);
  if (k == 4) return beam.stop;
  if (k == 5) return beam.gobos;
  if (k == 6) return vec4(beam.gobo2, beam.prism.x, beam.tile);
  if (k == 7) return beam.bladeX;
  if (k == 8) return beam.bladeY;
  if (k == 9) return beam.bladeAt;
  if (k == 10) return vec4(beam.outer, beam.radius, beam.web, beam.wide);
  if (k == 11) return vec4(beam.power, beam.hot, beam.half_, kindOf(beam));
  return vec4(beam.prism.yz, beam.open_, beam.sharp);
}

#ifdef PACKED
uniform sampler2D uPacked;
vec4 packed_(int i, int k) { return texelFetch(uPacked, ivec2((i % PACKED_ROW) * PACKED_TEXELS + k, i / PACKED_ROW), 0); }
float packedKind(int i) { return packed_(i, 11).w; }

Beam beamAt(int i) {
  Beam beam;
  vec4 a = packed_(i, 0), b = packed_(i, 1), c = packed_(i, 2), d = packed_(i, 3), e = packed_(i, 10), f = packed_(i, 11);
  beam.apex = a.w; beam.along = b.xyz; beam.lens = a.xyz + b.xyz * a.w;
  beam.side = c.xyz; beam.b = c.w; beam.candela = d.rgb; beam.hard = d.w;
  beam.outer = e.x; beam.radius = e.y; beam.web = e.z; beam.wide = e.w;
  beam.power = f.x; beam.hot = f.y; beam.half_ = f.z; beam.f = 2.0 * f.z;
  beam.stop = packed_(i, 4);
  vec4 g = packed_(i, 6), h = packed_(i, 12);
  beam.tile = g.w; beam.open_ = h.z; beam.sharp = h.w;
#ifdef GATE
  beam.gobos = packed_(i, 5); beam.gobo2 = g.xy; beam.prism = vec3(g.z, h.xy);
#endif
#if defined(GATE) || defined(SPREAD)
  beam.bladeX = packed_(i, 7); beam.bladeY = packed_(i, 8); beam.bladeAt = packed_(i, 9);
#endif
  return beam;
}
#endif
