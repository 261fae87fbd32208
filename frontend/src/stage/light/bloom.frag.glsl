// One step of the bloom's pyramid: down (each texel the mean of sixteen) or up (a tent of nine, added to what is there).
uniform sampler2D uSource;
uniform vec2 uSourceTexel;
uniform vec2 uSize;
uniform float uUp;
layout(location = 0) out vec4 colour;

void main() {
  vec2 uv = gl_FragCoord.xy / uSize;
  vec3 sum = vec3(0.0);
  if (uUp < 0.5) {
    for (int k = 0; k < 4; k++) sum += texture(uSource, uv + (vec2(float(k & 1), float(k >> 1)) * 2.0 - 1.0) * uSourceTexel).rgb * 0.25;
    // A single glowing texel must not flicker through the whole pyramid.
    sum = clamp(sum, 0.0, 4000.0);
  } else {
    for (int y = -1; y <= 1; y++) for (int x = -1; x <= 1; x++) {
      sum += texture(uSource, uv + vec2(float(x), float(y)) * uSourceTexel).rgb * (x == 0 ? 2.0 : 1.0) * (y == 0 ? 2.0 : 1.0) / 16.0;
    }
  }
  colour = vec4(sum, 1.0);
}
