// Each beam as the other programs take it, worked out once a frame: one texel of it (beam.glsl, the packed order).
uniform int uCount;
layout(location = 0) out vec4 texel;

void main() {
  int x = int(gl_FragCoord.x), i = int(gl_FragCoord.y) * PACKED_ROW + x / PACKED_TEXELS;
  texel = vec4(0.0);
  if (i >= uCount) { if (x % PACKED_TEXELS == 11) texel.w = 2.0; return; }
  Beam beam = fetchBeam(i);
  texel = packedTexel(beam, x % PACKED_TEXELS);
}
