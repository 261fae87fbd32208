// Light -> white balance -> bloom -> background -> tone curve -> sRGB.
uniform sampler2D uGathered;
uniform sampler2D uBloomed;
uniform vec2 uSize;
uniform mat3 uWhite;
uniform float uAdapt;        // the eye's own correction of the exposure
uniform float uBloom;
uniform vec3 uSkyLow;        // sRGB, as shown
uniform vec3 uSkyHigh;
layout(location = 0) out vec4 colour;

const float BLOOM = 0.012;   // the share of each level of the pyramid

vec3 toSrgb(vec3 c) { return mix(12.92 * c, 1.055 * pow(max(c, 0.0031308), vec3(1.0 / 2.4)) - 0.055, step(0.0031308, c)); }
vec3 fromSrgb(vec3 c) { return mix(c / 12.92, pow((c + 0.055) / 1.055, vec3(2.4)), step(0.04045, c)); }

// Keeps the hue of saturated light: the brightest part is compressed, the others follow, and only what is far too
// bright fades towards white.
vec3 tone(vec3 c) {
  float low = min(min(c.r, c.g), c.b);
  if (low < 0.0) { float grey = dot(c, vec3(0.2127, 0.7152, 0.0722)); c = grey > 0.0 ? mix(vec3(grey), c, grey / (grey - low)) : vec3(0.0); }
  float peak = max(max(c.r, c.g), c.b);
  if (peak <= 1e-6) return vec3(0.0);
  float squeezed = peak / (1.0 + peak) * 1.12 / (1.12 - 0.12 * exp(-peak));
  vec3 kept = c / peak * min(squeezed, 1.0);
  float white = smoothstep(1.0, 24.0, peak) * 0.85;
  return mix(kept, vec3(min(squeezed, 1.0)), white);
}

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  vec2 uv = gl_FragCoord.xy / uSize;
  vec4 seen = texelFetch(uGathered, at, 0);
  // What blooms is taken from where it was: six levels share it, and an even surface stays as it is.
  vec3 light = seen.rgb * (1.0 - 6.0 * BLOOM * uBloom) + texture(uBloomed, uv).rgb * (BLOOM * uBloom);
  vec3 shown = tone(uWhite * light * uAdapt);
  // Where nothing stands, what is behind everything; the light in the air lies over it.
  vec3 sky = fromSrgb(mix(uSkyLow, uSkyHigh, smoothstep(0.0, 1.0, uv.y))) * (1.0 - clamp(seen.a, 0.0, 1.0));
  shown = 1.0 - (1.0 - shown) * (1.0 - sky);
  float grain = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715)))) - 0.5;
  colour = vec4(toSrgb(shown) + grain / 255.0, 1.0);
}
