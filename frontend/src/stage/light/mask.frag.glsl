// Which beams reach into a tile's two balls: a bit each, 128 to a texel; each kind of beam apart.
// Texels: x tile . words + word, y tile . 2 + (0 nearer ball, 1 further).
uniform sampler2D uNear;
uniform sampler2D uFar;
uniform int uCount;
uniform int uWords;
uniform float uEvery; // 1: every beam in every tile, for tests
layout(location = 0) out uvec4 oPlain;
layout(location = 1) out uvec4 oSpread;
layout(location = 2) out uvec4 oGate;

bool reaches(vec4 apex, vec4 along, vec4 ball) {
  vec3 v = ball.xyz - apex.xyz;
  float ahead = dot(v, along.xyz), across = sqrt(max(dot(v, v) - ahead * ahead, 0.0));
  // Distance from the cone's side, by the tangent of its half angle.
  float tangent2 = along.w - 1.0, side = (across - ahead * sqrt(tangent2)) * inversesqrt(along.w);
  return ball.w >= 0.0 && (uEvery > 0.5 || (ahead + ball.w > apex.w && side < ball.w));
}

void thirtyTwo(int from, vec4 ball, out uint plain, out uint spread, out uint gate) {
  plain = spread = gate = 0u;
  for (int k = 0; k < 32; k++) {
    int i = from + k;
    if (i >= uCount) break;
    int kind = int(packedKind(i) + 0.5);
    if (kind == 2 || !reaches(packed_(i, 0), packed_(i, 1), ball)) continue;
    uint bit = 1u << k;
    plain |= kind == 1 ? bit : 0u;
    spread |= kind == 3 ? bit : 0u;
    gate |= kind == 0 ? bit : 0u;
  }
}

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  ivec2 tile = ivec2(at.x / uWords, at.y / 2);
  vec4 ball = (at.y & 1) == 0 ? texelFetch(uNear, tile, 0) : texelFetch(uFar, tile, 0);
  int from = (at.x % uWords) * 128;
  // Written out: an index into a vector that is only known while it runs loses bits in software rendering.
  thirtyTwo(from, ball, oPlain.x, oSpread.x, oGate.x);
  thirtyTwo(from + 32, ball, oPlain.y, oSpread.y, oGate.y);
  thirtyTwo(from + 64, ball, oPlain.z, oSpread.z, oGate.z);
  thirtyTwo(from + 96, ball, oPlain.w, oSpread.w, oGate.w);
}
