// A lens looked into: its own luminance, candela over its area, towards the eye. And the veil round it: Stiles-Holladay,
// L = 9.2 E / angle^2 (cd/m2, lux at the eye, degrees), with the faint rays that lashes and lenses make.
flat in int vBeam;
in vec2 vAcross;
flat in float vSeen;
uniform vec3 uEyeAt;
uniform float uGlare;
uniform float uGlareReach;
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
    // Stray light makes a lit lens visible from the side as well.
    vec3 luminance = beam.candela * ((vSeen + 0.0006 * (0.3 + facing)) / area);
    colour = vec4(clamp(luminance * uExposure * uBodyGain, 0.0, 30000.0) * (1.0 - smoothstep(0.85, 1.0, r)), 1.0);
    return;
  }
  vec3 lux = beam.candela * (vSeen / dot(toEye, toEye));
  float degrees_ = max(atan(r * uGlareReach) * 57.29578, 0.25);
  float angle = atan(vAcross.y, vAcross.x);
  float rays = 1.0 + 0.5 * pow(abs(cos(angle * 3.0 + 0.4)), 24.0) + 0.3 * pow(abs(cos(angle * 2.0 - 0.9)), 40.0);
  float veil = 9.2 / (degrees_ * degrees_) * rays * (1.0 - smoothstep(0.35, 1.0, r));
  colour = vec4(clamp(lux * (veil * uExposure * uBodyGain * 0.35), 0.0, 3000.0), 1.0);
}
