// What leaves a beam towards a point: core/optics/gate.py and beam.py in the stage's words. Gate coordinates u: x along the
// head's X, y along its Y, 1 at the field's rim.
precision highp sampler2DArray;
uniform sampler2DArray uGobos; // transmission; layer 0 is open
uniform sampler2DArray uWebs;  // shares of the peak: x phi, y the square root of gamma / pi
uniform float uPixel;          // radians a pixel covers (perspective), or metres (orthographic)

// Between pools, lenses and shafts and their vertex shader: one beam, packed.
#define PASS_BEAM(qualifier) \
  flat qualifier vec4 vLens; flat qualifier vec4 vAlong; flat qualifier vec4 vSide; flat qualifier vec4 vCandela; \
  flat qualifier vec4 vStop; flat qualifier vec4 vGobos; flat qualifier vec4 vRest; flat qualifier vec4 vDepths; \
  flat qualifier vec4 vAngles; flat qualifier vec4 vWide; flat qualifier vec2 vEdge;

#define PACK_BEAM(beam) \
  vLens = vec4(beam.lens, beam.radius); vAlong = vec4(beam.along, beam.half_); vSide = vec4(beam.side, beam.b); \
  vCandela = vec4(beam.candela, beam.hard); vStop = beam.stop; vGobos = beam.gobos; vRest = beam.rest; \
  vDepths = beam.depths; vAngles = beam.angles; vWide = vec4(beam.outer, beam.apex, beam.web, beam.wide); \
  vEdge = vec2(beam.power, beam.hot);

#define UNPACK_BEAM(beam) \
  Beam beam; beam.lens = vLens.xyz; beam.radius = vLens.w; beam.along = vAlong.xyz; beam.half_ = vAlong.w; \
  beam.f = 2.0 * vAlong.w; beam.side = vSide.xyz; beam.b = vSide.w; beam.candela = vCandela.rgb; beam.hard = vCandela.w; \
  beam.stop = vStop; beam.gobos = vGobos; beam.rest = vRest; beam.depths = vDepths; beam.angles = vAngles; \
  beam.outer = vWide.x; beam.apex = vWide.y; beam.web = vWide.z; beam.wide = vWide.w; \
  beam.power = vEdge.x; beam.hot = vEdge.y;

// Whether there is anything in the gate that a smooth shaft would not show.
bool patterned(Beam beam) {
  return beam.gobos.x > 0.5 || beam.gobos.z > 0.5 || beam.rest.x > 0.5 || max(max(beam.depths.x, beam.depths.y), max(beam.depths.z, beam.depths.w)) > 0.002;
}

float rimOf(Beam beam) { return 0.012 + 0.35 * (1.0 - beam.stop.y); }

vec2 turned(vec2 u, float a) { float c = cos(a), s = sin(a); return vec2(c * u.x + s * u.y, c * u.y - s * u.x); }

// `p` is ln(log2 10) / ln(f / b).
float softEdge(float t, float b, float f, float p) {
  float half_ = f * 0.5, last = min(1.5 * half_, PI * 0.5);
  float s = clamp((t - half_) / max(last - half_, 1e-5), 0.0, 1.0);
  return exp2(-pow(2.0 * t / b, p)) * (1.0 - s * s * (3.0 - 2.0 * s));
}

float irisStop(Beam beam, float r, float rim) {
  return beam.stop.x < 0.995 ? 1.0 - smoothstep(beam.stop.x - rim, beam.stop.x + rim, r) : 1.0;
}

float bladesThrough(Beam beam, vec2 u, float rim) {
  float through = 1.0;
  for (int k = 0; k < 4; k++) {
    float depth = beam.depths[k];
    if (depth <= 0.002) continue;
    float around = beam.rest.z + PI * 0.5 * float(k + 1);
    vec2 middle = vec2(cos(around), sin(around)) * (1.0 - depth);
    vec2 across = vec2(cos(around + beam.angles[k]), sin(around + beam.angles[k]));
    through *= 1.0 - smoothstep(-rim, rim, dot(u - middle, across));
  }
  return through;
}

float goboThrough(float layer, float angle, vec2 u, float lod) {
  if (layer < 0.5) return 1.0;
  vec2 at = turned(u, angle) * 0.5;
  return textureLod(uGobos, vec3(0.5 + at.x, 0.5 - at.y, layer), lod).r;
}

// One copy: `u` in the gate, `footprint` how much of the gate a sample covers.
float oneCopy(Beam beam, vec2 u, float footprint, bool pattern) {
  float r = length(u);
  float t = beam.hard > 0.5 && beam.stop.z <= 0.001 ? 0.0 : atan(r * beam.wide);
  float clear;
  if (beam.hard > 0.5) {
    float rim = max(rimOf(beam), footprint);
    clear = (1.0 - beam.hot * min(r * r, 1.0)) * (1.0 - smoothstep(1.0 - rim, 1.0 + rim, r)) * irisStop(beam, r, rim);
    if (pattern && clear > 0.0) {
      float texels = 128.0 * max(rimOf(beam) - 0.012, footprint);
      float lod = log2(max(texels, 1.0));
      clear *= bladesThrough(beam, u, rim) * goboThrough(beam.gobos.x, beam.gobos.y, u, lod) * goboThrough(beam.gobos.z, beam.gobos.w, u, lod);
    }
  } else {
    clear = softEdge(t, beam.b, beam.f, beam.power) * irisStop(beam, r, rimOf(beam));
  }
  if (beam.stop.z > 0.001) {
    float f = min(beam.f + FROST, RIM_MOST);
    clear = mix(clear, softEdge(t, f * 0.55, f, 2.00826) * beam.stop.w, beam.stop.z);
  }
  return clear;
}

// I / I0 towards a point given from the virtual apex (numbers.md, Beam).
float shape(Beam beam, vec3 fromApex, float footprintMetres, bool pattern) {
  float z = dot(fromApex, beam.along);
  if (z <= 1e-4) return 0.0;
  vec3 up = cross(beam.side, beam.along);
  if (beam.web > 0.5) {
    vec2 xy = vec2(dot(fromApex, beam.side), dot(fromApex, up));
    float gamma = atan(length(xy), z), phi = atan(xy.y, xy.x);
    float row = sqrt(gamma / PI) * 127.0;
    return textureLod(uWebs, vec3(phi / (2.0 * PI), (row + 0.5) / 128.0, beam.web), 0.0).r;
  }
  float wide = z * beam.wide;
  vec2 u = vec2(dot(fromApex, beam.side), dot(fromApex, up)) / wide;
  float footprint = footprintMetres / wide;
  int prism = int(beam.rest.x + 0.5);
  if (prism < 1) return oneCopy(beam, u, footprint, pattern);
  int count = int(texelFetch(uPrisms, ivec2(0, prism - 1), 0).x + 0.5);
  vec2 at = turned(u, beam.rest.y);
  float sum = 0.0;
  for (int k = 0; k < 8; k++) {
    if (k >= count) break;
    vec4 facet = texelFetch(uPrisms, ivec2(k + 1, prism - 1), 0);
    sum += oneCopy(beam, turned(turned(at - facet.xy, facet.z), -beam.rest.y), footprint, pattern);
  }
  return sum / float(max(count, 1));
}
