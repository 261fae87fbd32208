// A lens looked into: its own luminance, candela over its area, towards the eye. And the veil round it: Stiles-Holladay,
// L = 9.2 E / angle^2 (cd/m2, lux at the eye, degrees).
flat in int vBeam;
in vec2 vAcross;
flat in float vSeen;
uniform vec3 uEyeAt;
uniform float uGlare;
uniform float uGlareReach;
uniform float uVeiled;
uniform sampler2D uThrough;
uniform sampler2D uVeilDistance;
uniform float uExposure;
uniform float uBodyGain;
layout(location = 0) out vec4 colour;

void main() {
  Beam beam = beamAt(vBeam);
  float r = length(vAcross);
  if (r > 1.0) discard;
  vec3 toEye = uEyeAt - beam.lens;
  if (uGlare < 0.5) {
    float facing = max(dot(normalize(toEye), beam.along), 0.0);
    float area = PI * beam.radius * beam.radius;
    // Off the beam the glass shows its lamp as a core that fades as the beam does; stray light rims it from any side.
    float tangent = length(cross(normalize(toEye), beam.along)) / max(facing, 0.05);
    float core = exp(-r * r * 9.0) * 3.0 / (1.0 + pow(tangent / max(beam.wide, 0.03), 2.0) * 0.35);
    vec3 luminance = beam.candela * ((vSeen + 0.0005 * (core + 0.25)) * step(0.0, dot(toEye, beam.along)) / area);
    // What is dimmed later for what is sheer is not behind it here.
    if (uVeiled > 0.5 && length(toEye) < texelFetch(uVeilDistance, ivec2(gl_FragCoord.xy), 0).r) luminance /= max(texelFetch(uThrough, ivec2(gl_FragCoord.xy), 0).r, 0.05);
    colour = vec4(clamp(luminance * uExposure * uBodyGain, 0.0, 30000.0) * (1.0 - smoothstep(0.85, 1.0, r)), 1.0);
    return;
  }
  vec3 lux = beam.candela * (vSeen / dot(toEye, toEye));
  float degrees_ = max(atan(r * uGlareReach) * 57.29578, 0.25);
  float veil = 9.2 / (degrees_ * degrees_) * (1.0 - smoothstep(0.2, 1.0, r));
  colour = vec4(clamp(lux * (veil * uExposure * uBodyGain * 0.25), 0.0, 3000.0), 1.0);
}
