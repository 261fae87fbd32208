// A square for each tile of the picture that any beam reaches into.
in vec3 position; // x, y in -1..1 across
precision highp usampler2D;
uniform usampler2D uMask;
uniform vec2 uSize;
uniform ivec2 uTiles;
uniform int uWords;
flat out ivec2 vTile;

void main() {
  int i = gl_VertexID / SQUARE;
  vTile = ivec2(i % uTiles.x, i / uTiles.x);
  uvec4 any_ = uvec4(0u);
  for (int w = 0; w < uWords; w++) for (int k = 0; k < 2; k++) any_ |= texelFetch(uMask, ivec2(vTile.x * uWords + w, vTile.y * 2 + k), 0);
  vec2 at = (vec2(vTile) + position.xy * 0.5 + 0.5) * float(TILE) / uSize * 2.0 - 1.0;
  gl_Position = (any_.x | any_.y | any_.z | any_.w) == 0u ? vec4(2.0, 2.0, 2.0, 1.0) : vec4(at, 0.0, 1.0);
}
