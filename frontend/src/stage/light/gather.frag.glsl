// Surfaces and air together in light, before the tone curve: shafts brought up to full size along edges of depth.
uniform sampler2D uLight;
uniform sampler2D uShafts; // half the size: those with patterns
uniform sampler2D uMist;   // a quarter of the size: smooth ones
uniform sampler2D uDistance;
uniform vec2 uSize;
uniform float uAir;        // 0 no shafts, 1 smooth ones, 2 patterned ones as well
uniform sampler2D uThrough;   // how much of what is behind comes through what is sheer
uniform sampler2D uVeilLight; // and the light of that itself
uniform float uVeiled;        // 1: there is something sheer
layout(location = 0) out vec4 colour;

// Nine samples of a smaller target hide its jitter; those across an edge of depth hardly count.
vec3 brought(sampler2D small_, ivec2 at, float away) {
  ivec2 size = textureSize(small_, 0);
  vec2 scale = vec2(size) / uSize;
  vec2 place = (vec2(at) + 0.5) * scale - 0.5;
  ivec2 middle = ivec2(floor(place + 0.5));
  vec3 sum = vec3(0.0);
  float weights = 0.0;
  for (int y = -1; y <= 1; y++) for (int x = -1; x <= 1; x++) {
    ivec2 t = clamp(middle + ivec2(x, y), ivec2(0), size - 1);
    float d = texelFetch(uDistance, min(ivec2((vec2(t) + 0.5) / scale), ivec2(uSize) - 1), 0).r;
    vec2 off = vec2(t) - place;
    float same = (d > 0.0) == (away > 0.0) ? 1.0 / (1.0 + 12.0 * abs(d - away) / max(away, 1.0)) : 0.02;
    float w = exp(-dot(off, off) * 0.9) * max(same, 0.004);
    sum += texelFetch(small_, t, 0).rgb * w;
    weights += w;
  }
  return sum / weights;
}

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  vec3 light = texelFetch(uLight, at, 0).rgb;
  float away = texelFetch(uDistance, at, 0).r;
  colour = vec4(light, away > 0.0 ? 1.0 : 0.0);
  if (uVeiled > 0.5) {
    float through = texelFetch(uThrough, at, 0).r;
    colour = vec4(light * through + texelFetch(uVeilLight, at, 0).rgb, 1.0 - (1.0 - colour.a) * through);
  }
  if (uAir < 0.5) return;
  colour.rgb += brought(uMist, at, away);
  if (uAir > 1.5) colour.rgb += brought(uShafts, at, away);
}
