// What leaves a beam towards a point: core/optics/gate.py and beam.py in the stage's words. Gate coordinates u: x along the
// head's X, y along its Y, 1 at the field's rim. Programs hold what their beams can have: GATE gobos, blades and prisms,
// SPREAD photometric webs and frost. Where shaders run in software, what stands behind an `if` is worked out all the same.
precision highp sampler2DArray;
uniform sampler2DArray uGobos; // transmission; layer 0 is open
uniform sampler2DArray uWebs;  // shares of the peak: x phi, y the square root of gamma / pi
uniform sampler2D uPrisms;     // a row each: count, reach (gate radii); then x, y (gate radii), turn (radians) of each facet
uniform float uPixel;          // radians a pixel covers (perspective), or metres (orthographic)

float rimOf(Beam beam) { return 0.012 + 0.35 * (1.0 - beam.stop.y); }

vec2 turned(vec2 u, vec2 cs) { return vec2(cs.x * u.x + cs.y * u.y, cs.x * u.y - cs.y * u.x); }

// `p` is ln(log2 10) / ln(f / b).
float softEdge(float t, float b, float f, float p) {
  float half_ = f * 0.5, last = min(1.5 * half_, PI * 0.5);
  float s = clamp((t - half_) / max(last - half_, 1e-5), 0.0, 1.0);
  return exp2(-pow(2.0 * t / b, p)) * (1.0 - s * s * (3.0 - 2.0 * s));
}

float irisStop(Beam beam, float r, float rim) {
  return beam.stop.x < 0.995 ? 1.0 - smoothstep(beam.stop.x - rim, beam.stop.x + rim, r) : 1.0;
}

// Half the width of the edge of a barn door.
const float DOOR_RIM = 0.18;

#if defined(GATE) || defined(SPREAD)
float bladesThrough(Beam beam, vec2 u, float rim) {
  vec4 through = 1.0 - smoothstep(-rim, rim, beam.bladeX * u.x + beam.bladeY * u.y - beam.bladeAt);
  return through.x * through.y * through.z * through.w;
}
#endif

#ifdef GATE
float goboThrough(float layer, vec2 cs, vec2 u, float lod) {
  if (layer < 0.5) return 1.0;
  vec2 at = turned(u, cs) * 0.5;
  return textureLod(uGobos, vec3(0.5 + at.x, 0.5 - at.y, layer), lod).r;
}
#endif

// One copy: `u` in the gate, `footprint` how much of the gate a sample covers.
float oneCopy(Beam beam, vec2 u, float footprint) {
  float r = length(u), rim = rimOf(beam), clear;
  float t = atan(r * beam.wide);
  if (beam.hard > 0.5) {
    float edge = max(rim, footprint);
    clear = (1.0 - beam.hot * min(r * r, 1.0)) * (1.0 - smoothstep(1.0 - edge, 1.0 + edge, r)) * irisStop(beam, r, edge);
#ifdef GATE
    float texels = 128.0 * max(rim - 0.012, footprint);
    float lod = log2(max(texels, 1.0));
    clear *= bladesThrough(beam, u, edge) * goboThrough(beam.gobos.x, beam.gobos.yz, u, lod) * goboThrough(beam.gobos.w, beam.gobo2, u, lod);
#endif
  } else {
    clear = softEdge(t, beam.b, beam.f, beam.power) * irisStop(beam, r, rim);
#ifdef GATE
    clear *= bladesThrough(beam, u, DOOR_RIM);
#endif
  }
#if defined(GATE) || defined(SPREAD)
  if (beam.stop.z > 0.001) {
    float f = min(beam.f + FROST_WIDER, RIM_MOST);
    clear = mix(clear, softEdge(t, f * 0.55, f, 2.00826) * beam.stop.w, beam.stop.z);
  }
#endif
  return clear;
}

// I / I0 towards a point given from the virtual apex (numbers.md, Beam).
float shape(Beam beam, vec3 fromApex, float footprintMetres) {
  float z = dot(fromApex, beam.along);
  if (z <= 1e-4) return 0.0;
  vec3 up = cross(beam.side, beam.along);
  vec2 xy = vec2(dot(fromApex, beam.side), dot(fromApex, up));
#ifdef SPREAD
  if (beam.web > 0.5) {
    float gamma = atan(length(xy), z), phi = atan(xy.y, xy.x);
    float row = sqrt(gamma / PI) * 127.0;
    float door = bladesThrough(beam, xy / (z * beam.wide), DOOR_RIM);
    return door * textureLod(uWebs, vec3(phi / (2.0 * PI), (row + 0.5) / 128.0, beam.web), 0.0).r;
  }
#endif
  // A thin lens, sharp at one distance: focus_at of core/optics/beam.py.
  if (beam.sharp > 0.0) beam.stop.y = 1.0 - min(beam.apex * abs(1.0 / beam.sharp - 1.0 / max(z - beam.apex, 0.1)) / 0.35, 1.0);
  float wide = z * beam.wide;
  vec2 u = xy / wide;
  float footprint = footprintMetres / wide;
#ifdef GATE
  int prism = int(beam.prism.x + 0.5);
  if (prism < 1) return oneCopy(beam, u, footprint);
  int count = int(texelFetch(uPrisms, ivec2(0, prism - 1), 0).x + 0.5);
  vec2 at = turned(u, beam.prism.yz);
  float sum = 0.0;
  for (int k = 0; k < 8; k++) {
    if (k >= count) break;
    vec4 facet = texelFetch(uPrisms, ivec2(k + 1, prism - 1), 0);
    sum += oneCopy(beam, turned(turned(at - facet.xy, vec2(cos(facet.z), sin(facet.z))), vec2(beam.prism.y, -beam.prism.z)), footprint);
  }
  return sum / float(max(count, 1));
#else
  return oneCopy(beam, u, footprint);
#endif
}
