// Edges smoothed after the tone curve: along the edge that luma shows, a blend with the neighbour across it.
uniform sampler2D uShown;
uniform vec2 uSize;
uniform vec2 uCorner;
layout(location = 0) out vec4 colour;

float luma(vec3 c) { return dot(c, vec3(0.299, 0.587, 0.114)); }

void main() {
  vec2 px = 1.0 / uSize;
  vec2 uv = (gl_FragCoord.xy - uCorner) * px;
  vec3 m = texture(uShown, uv).rgb;
  float lm = luma(m);
  float ln = luma(texture(uShown, uv + vec2(0.0, px.y)).rgb), ls = luma(texture(uShown, uv - vec2(0.0, px.y)).rgb);
  float le = luma(texture(uShown, uv + vec2(px.x, 0.0)).rgb), lw = luma(texture(uShown, uv - vec2(px.x, 0.0)).rgb);
  float lo = min(lm, min(min(ln, ls), min(le, lw))), hi = max(lm, max(max(ln, ls), max(le, lw)));
  float range = hi - lo;
  if (range < max(0.03, hi * 0.10)) { colour = vec4(m, 1.0); return; }
  float lne = luma(texture(uShown, uv + px).rgb), lsw = luma(texture(uShown, uv - px).rgb);
  float lnw = luma(texture(uShown, uv + vec2(-px.x, px.y)).rgb), lse = luma(texture(uShown, uv + vec2(px.x, -px.y)).rgb);
  // Across the edge is against its run.
  vec2 run = vec2(-((lnw + lne) - (lsw + lse)), (lnw + lsw) - (lne + lse));
  float least = 1.0 / (min(abs(run.x), abs(run.y)) + max((lnw + lne + lsw + lse) * 0.03125, 0.0078));
  run = clamp(run * least, -8.0, 8.0) * px;
  vec3 near_ = 0.5 * (texture(uShown, uv + run * (1.0 / 3.0 - 0.5)).rgb + texture(uShown, uv + run * (2.0 / 3.0 - 0.5)).rgb);
  vec3 wide = near_ * 0.5 + 0.25 * (texture(uShown, uv - run * 0.5).rgb + texture(uShown, uv + run * 0.5).rgb);
  float lwide = luma(wide);
  colour = vec4(lwide < lo || lwide > hi ? near_ : wide, 1.0);
}
