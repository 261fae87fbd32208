// Bodies of fixtures, where pose.frag.glsl has them: black paint, a little worn.
in vec3 position; in vec3 normal; in float beam;
uniform mat4 uViewProjection;
uniform highp sampler2D uPoses;
uniform int uTurns; // 0 stays, 1 pans, 2 pans and tilts
out vec3 vPlace; out vec3 vNormal; flat out vec4 vTint; out float vPart;
out vec3 vOwn; out vec3 vOwnNormal; flat out vec3 vFinish;

void main() {
  int i = int(beam + 0.5);
  ivec2 at = ivec2((i % 64) * 9 + uTurns * 3, i / 64);
  vec4 x = texelFetch(uPoses, at, 0), y = texelFetch(uPoses, at + ivec2(1, 0), 0), z = texelFetch(uPoses, at + ivec2(2, 0), 0);
  vec4 p = vec4(position, 1.0);
  vPlace = vec3(dot(x, p), dot(y, p), dot(z, p));
  vNormal = vec3(dot(x.xyz, normal), dot(y.xyz, normal), dot(z.xyz, normal));
  vTint = vec4(0.062, 0.065, 0.07, 0.0); vPart = 0.0;
  vOwn = position; vOwnNormal = normal; vFinish = vec3(1.0, 0.0, 0.0);
  gl_Position = uViewProjection * vec4(vPlace, 1.0);
}
