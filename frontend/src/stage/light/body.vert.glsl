// Bodies of fixtures, posed from the beam state: black paint, a little worn.
in vec3 position; in vec3 normal; in float beam;
uniform mat4 uViewProjection; uniform int uTurns;
out vec3 vPlace; out vec3 vNormal; flat out vec4 vTint; out float vPart;
out vec3 vOwn; out vec3 vOwnNormal; flat out float vFinish;

void main() {
  int i = int(beam + 0.5);
  vPlace = posed(i, uTurns, position, 1.0); vNormal = posed(i, uTurns, normal, 0.0);
  vTint = vec4(0.062, 0.065, 0.07, 0.0); vPart = 0.0;
  vOwn = position; vOwnNormal = normal; vFinish = 1.0;
  gl_Position = uViewProjection * vec4(vPlace, 1.0);
}
