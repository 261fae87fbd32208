// Things that stand, instanced: where each stands, its colour and number, and what it is faced with.
in vec3 position; in vec3 normal; in float part; in vec4 tint; in vec3 finish;
#ifndef BAKED
in mat4 instanceMatrix;
#else
const mat4 instanceMatrix = mat4(1.0); // already where it stands
#endif
#ifdef CASTING
uniform mat4 uLight;
out float vAlong;
#else
uniform mat4 uViewProjection;
uniform vec3 uEye;
uniform float uPixel;
uniform float uOrtho;
uniform float uLines; // 1: drawn as lines
#endif
out vec3 vPlace; out vec3 vNormal; flat out vec4 vTint; out float vPart;
out vec3 vOwn; out vec3 vOwnNormal; flat out vec3 vFinish; // what it is faced with; shares of light straight through and scattered

void main() {
  vec4 p = instanceMatrix * vec4(position, 1.0);
  vPlace = p.xyz; vNormal = mat3(instanceMatrix) * normal; vTint = tint; vPart = part;
  vOwn = position; vOwnNormal = normal; vFinish = finish;
#ifdef THIN
  // Half a pixel from the axis to either side: less would fall to dashes. As much wider, as much dimmer.
  float wider = max(0.5 * uPixel * mix(distance(p.xyz, uEye), 1.0, uOrtho) - 0.014, 0.0);
  p.xyz += normalize(vNormal) * wider;
  vTint.rgb *= 0.02 / (0.02 + wider * (1.0 - uLines));
#endif
#ifdef CASTING
  gl_Position = uLight * p;
  vAlong = gl_Position.w;
#else
  gl_Position = uViewProjection * p;
#endif
}
