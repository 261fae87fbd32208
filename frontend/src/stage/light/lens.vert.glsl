// A disc for each lens, or (uGlare) the veil that a lens looked into lays over the eye.
in vec3 position; // x, y in -1..1 across
uniform mat4 uViewProjection;
uniform vec3 uEyeAt;
uniform float uGlare;        // 0 the lens itself, 1 the glare
uniform float uGlareReach;   // tangent of the half angle that the glare is drawn over
uniform sampler2D uDistance;
flat out int vBeam;
out vec2 vAcross;
flat out float vSeen;        // I / I0 towards the eye, and for the glare how much of the lens the eye sees

float lensSeen(vec3 lens, float radius) {
  vec4 clip = uViewProjection * vec4(lens, 1.0);
  if (clip.w <= 0.0) return 0.0;
  vec2 at = clip.xy / clip.w * 0.5 + 0.5;
  float away = distance(lens, uEyeAt);
  vec2 size = vec2(textureSize(uDistance, 0));
  float seen = 0.0;
  for (int k = 0; k < 5; k++) {
    vec2 off = k == 0 ? vec2(0.0) : vec2(k == 1 ? 1.5 : k == 2 ? -1.5 : 0.0, k == 3 ? 1.5 : k == 4 ? -1.5 : 0.0);
    ivec2 texel = clamp(ivec2(at * size + off), ivec2(0), ivec2(size) - 1);
    float d = texelFetch(uDistance, texel, 0).r;
    seen += d <= 0.0 || d > away - radius - 0.1 ? 0.2 : 0.0;
  }
  return any(lessThan(at, vec2(0.0))) || any(greaterThan(at, vec2(1.0))) ? 0.0 : seen;
}

void main() {
  vBeam = gl_VertexID / SQUARE;
  vAcross = position.xy;
  gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
  vSeen = 0.0;
  if (packedKind(vBeam) == 2.0) return;
  Beam beam = beamAt(vBeam);
  vec3 lens = beam.lens + beam.along * 0.012;
  vSeen = shape(beam, uEyeAt - (beam.lens - beam.along * beam.apex), 0.02);
  if (uGlare < 0.5) {
    vec3 up = cross(beam.side, beam.along);
    gl_Position = uViewProjection * vec4(lens + (beam.side * position.x + up * position.y) * beam.radius, 1.0);
    return;
  }
  float away = distance(lens, uEyeAt);
  float lux = max(max(beam.candela.r, beam.candela.g), beam.candela.b) * vSeen / (away * away);
  if (lux < 0.05) return;
  vSeen *= lensSeen(lens, beam.radius);
  if (vSeen <= 0.0) return;
  vec3 look = normalize(uEyeAt - lens);
  vec3 right = normalize(cross(vec3(0.0, 0.0, 1.0), look) + vec3(1e-5, 0.0, 0.0));
  vec3 up = cross(look, right);
  gl_Position = uViewProjection * vec4(lens + (right * position.x + up * position.y) * (away * uGlareReach), 1.0);
  // Over everything: it is in the eye, not on the stage.
  gl_Position.z = 0.0;
}
