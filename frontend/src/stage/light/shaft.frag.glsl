// Single scattering of a beam in haze along the ray of a pixel, from where it enters the cone to where it leaves it or
// meets a surface. Equiangular samples make 1/d^2 exact, so a few steps do. The haze drifts in clouds.
flat in int vBeam;
uniform sampler2D uDistance;
#ifdef VEILS
uniform sampler2D uThrough;      // how much of what is behind comes through what is sheer
uniform sampler2D uVeilDistance; // and where that is, metres along the ray, 0 for nowhere
#endif
uniform vec2 uSize;
uniform vec2 uCorner;
uniform float uExposure;
uniform float uHaze;      // 1/m, the mean
uniform float uUneven;    // 0 even .. 1 from nothing to twice
uniform float uRange;     // metres
uniform float uSeed;      // moves the jitter from sample to sample of a still
uniform float uShaftGain;
uniform int uSteps;
uniform float uTime;      // the server's clock, seconds
layout(location = 0) out vec4 colour;

const float G = 0.6; // Henyey-Greenstein

float phase(float c) { float k = 1.0 + G * G - 2.0 * G * c; return (1.0 - G * G) / (4.0 * PI * k * sqrt(k)); }
float interleaved(vec2 p) { return fract(52.9829189 * fract(dot(p, vec2(0.06711056, 0.00583715)))); }

precision highp sampler3D;
uniform sampler3D uClouds; // lumps of mean one half, repeating
// Density at a place over the mean: clouds that drift and rise.
float density(vec3 p) {
  vec3 drift = vec3(0.11, 0.05, 0.04) * uTime;
  return 1.0 + uUneven * (textureLod(uClouds, (p * 0.7 - drift) / 32.0, 0.0).r * 2.0 - 1.0) * 1.6;
}

void main() {
  vec2 uv = (gl_FragCoord.xy - uCorner) / uSize;
  vec3 origin, direction;
  pixelRay(uv, origin, direction);
  float surface = texture(uDistance, uv).r;
  float last = surface > 0.0 ? surface : 400.0;
#ifdef VEILS
  float veilAt = texture(uVeilDistance, uv).r, veilOpen = texture(uThrough, uv).r;
#endif
  Beam beam = beamAt(vBeam);
  vec3 apex = beam.lens - beam.along * beam.apex;
  // |across| = outer . along: a quadratic in t for the infinite double cone.
  vec3 o = origin - apex;
  float c2 = 1.0 / (1.0 + beam.outer * beam.outer);
  float dv = dot(direction, beam.along), ov = dot(o, beam.along), od = dot(o, direction), oo = dot(o, o);
  float a = dv * dv - c2, b = 2.0 * (dv * ov - c2 * od), c = ov * ov - c2 * oo;
  float disc = b * b - 4.0 * a * c;
  // Slab between the lens and the range.
  float inv = 1.0 / (abs(dv) > 1e-5 ? dv : 1e-5);
  float s0 = (beam.apex - ov) * inv, s1 = (beam.apex + uRange - ov) * inv;
  float t0 = max(min(s0, s1), 0.0), t1 = min(max(s0, s1), last);
  if (disc > 0.0 && abs(a) > 1e-7) {
    float root = sqrt(disc);
    float q0 = (-b - root) / (2.0 * a), q1 = (-b + root) / (2.0 * a);
    float lo = min(q0, q1), hi = max(q0, q1);
    if (a < 0.0) { t0 = max(t0, lo); t1 = min(t1, hi); }
    else {
      // Looking along the beam: inside before the first root or after the second, on the forward nappe only.
      if (ov + dv * (hi + 1.0) > 0.0) t0 = max(t0, hi); else t1 = min(t1, lo);
    }
  } else if (disc <= 0.0 && c < 0.0) t1 = t0;
  // Equiangular about the apex.
  float nearest = -od;
  float away = max(length(o + direction * nearest), 0.02);
  float from = atan((t0 - nearest) / away), to = atan((t1 - nearest) / away);
  float jitter = fract(interleaved(gl_FragCoord.xy) + uSeed * 0.61803399);
  // A beam without a pattern or a shadow needs few samples: the distance is exact.
#if defined(GATE)
  int steps = uSteps;
#elif defined(SHADOWS)
  int steps = beam.tile > 0.5 ? (uSteps + 3) / 2 : min(uSteps, 4);
#else
  int steps = min(uSteps, 4);
#endif
  float step_ = (to - from) / float(steps);
  if (t1 <= t0) steps = 0;
  float sum = 0.0;
  // The clouds at a third and two thirds of the way through the shaft, in between straight.
  vec2 cloud = vec2(1.0);
  if (uUneven > 0.0) cloud = vec2(density(origin + direction * mix(t0, t1, 0.3)), density(origin + direction * mix(t0, t1, 0.7)));
  for (int i = 0; i < steps; i++) {
    float angle = from + step_ * (float(i) + jitter);
    float t = nearest + away * tan(angle);
    vec3 p = origin + direction * t;
    vec3 q = p - apex;
    float d2 = dot(q, q);
    float footprint = min(step_ * d2 / away, 0.12 * sqrt(d2)) * 0.25;
    float through = dot(q, beam.along) < beam.apex ? 0.0 : shape(beam, q, footprint);
#ifdef VEILS
    through *= veilAt > 0.0 && t > veilAt ? veilOpen : 1.0;
#endif
#ifdef SHADOWS
    through *= lightReaching(beam.tile, p, -beam.along, q, beam.outer, 1);
#endif
    // E(t) = I shape / d2, weight 1 / pdf = (to - from) d2 / away: the d2 cancel.
    // Light that goes on nearly as it came is the brightest: cosine between its way and the way to the eye.
    float cosine = dot(q, -direction) * inversesqrt(d2);
    sum += through * max(mix(cloud.x, cloud.y, (float(i) + jitter) / float(steps)), 0.0) * phase(cosine) * exp(-uHaze * (t + distance(p, beam.lens)));
  }
  float integral = steps > 0 ? sum * step_ / away : 0.0;
#ifndef GATE
  // What a program without gates does not show in the air, it takes off all of the shaft.
  integral *= beam.open_;
#endif
  colour = vec4(clamp(beam.candela * (integral * uHaze * uExposure * uShaftGain), -500.0, 60000.0), 1.0);
}
