// Things that stand, instanced: where each stands, its colour and number, and what it is faced with.
in vec3 position; in vec3 normal; in float part; in vec4 tint; in float finish;
#ifndef BAKED
in mat4 instanceMatrix;
#else
const mat4 instanceMatrix = mat4(1.0); // already where it stands
#endif
uniform mat4 uViewProjection;
uniform vec3 uEye;
uniform float uPixel;
uniform float uOrtho;
out vec3 vPlace; out vec3 vNormal; flat out vec4 vTint; out float vPart;
out vec3 vOwn; out vec3 vOwnNormal; flat out float vFinish;

void main() {
  vec4 p = instanceMatrix * vec4(position, 1.0);
  vPlace = p.xyz; vNormal = mat3(instanceMatrix) * normal; vTint = tint; vPart = part;
  vOwn = position; vOwnNormal = normal; vFinish = finish;
#ifdef THIN
  // Half a pixel from the axis to either side: less would fall to dashes.
  p.xyz += normalize(vNormal) * max(0.5 * uPixel * mix(distance(p.xyz, uEye), 1.0, uOrtho) - 0.014, 0.0);
#endif
  gl_Position = uViewProjection * p;
}
