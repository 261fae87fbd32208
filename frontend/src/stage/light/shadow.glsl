// The shadow atlas: ATLAS x ATLAS tiles of depth as seen from the virtual apex of a beam, each with the matrix it was drawn with.
precision highp sampler2DShadow;
uniform sampler2DShadow uShadows;
uniform sampler2D uShadowMatrices; // four texels (columns) a tile: show frame to the tile's clip space

#ifdef VEILS
uniform sampler2D uVeils; // tile by tile like the shadows: how much goes through what is sheer, and where along the axis that begins
#endif

// `reach` is the tangent that the beam's tile covers: how wide one of its texels is at a place follows from it.
float lightReaching(float tile, vec3 p, vec3 normal, vec3 fromApex, float reach, int taps) {
  if (tile < 0.5) return 1.0;
  int i = int(tile + 0.5) - 1;
  mat4 m = mat4(texelFetch(uShadowMatrices, ivec2(0, i), 0), texelFetch(uShadowMatrices, ivec2(1, i), 0),
                texelFetch(uShadowMatrices, ivec2(2, i), 0), texelFetch(uShadowMatrices, ivec2(3, i), 0));
  // Off the face by what a texel of the tile spans on it, more where light grazes it: less would stripe, more moves the edge.
  float far_ = length(fromApex), texel_ = 2.1 * min(reach, 3.5) * far_ / 256.0;
  vec3 toLight = -fromApex / far_;
  float slope = 1.0 - max(dot(normal, toLight), 0.0);
  vec4 clip = m * vec4(p + normal * (0.003 + texel_ * (0.15 + 1.1 * slope)) + toLight * (0.004 + 0.3 * texel_), 1.0);
  if (clip.w <= 0.0) return 1.0;
  vec3 at = clip.xyz / clip.w * 0.5 + 0.5;
  vec2 edge = min(at.xy, 1.0 - at.xy);
  if (min(edge.x, edge.y) < 0.004 || at.z > 1.0 || at.z < 0.0) return 1.0;
  vec2 uv = (at.xy + vec2(float(i % ATLAS), float(i / ATLAS))) / float(ATLAS);
  float sheer = 1.0;
#ifdef VEILS
  vec4 veil = texture(uVeils, uv);
  if (clip.w > veil.a + 0.06) sheer = veil.r;
#endif
  float texel = 1.0 / float(textureSize(uShadows, 0).x);
  if (taps == 1) return texture(uShadows, vec3(uv, at.z)) * sheer;
  float sum = 0.0;
  for (int k = 0; k < 4; k++) {
    vec2 off = (vec2(float(k & 1), float(k >> 1)) - 0.5) * texel;
    sum += texture(uShadows, vec3(uv + off, at.z));
  }
  return sum * 0.25 * sheer;
}
