// What lights surfaces besides beams: work light and house light (no part of the show), and light that has bounced.
uniform sampler2D uAlbedo;
uniform sampler2D uNormal;
uniform sampler2D uDistance;
uniform sampler2D uBounce;   // lux by colour, openness; a quarter of the size
uniform vec2 uSize;
uniform vec2 uCorner;
uniform float uExposure;
uniform float uWork;         // lux
uniform float uHouse;        // lux
uniform float uBounceGain;
layout(location = 0) out vec4 colour;

const vec3 TUNGSTEN = vec3(1.62, 0.90, 0.38); // 2900 K, luminance 1
const float PI = 3.14159265358979;

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  float away = texelFetch(uDistance, at, 0).r;
  if (away <= 0.0) { colour = vec4(0.0, 0.0, 0.0, 1.0); return; }
  vec3 a = texelFetch(uAlbedo, at, 0).rgb;
  vec3 n = texelFetch(uNormal, at, 0).xyz;
  vec4 bounce = vec4(0.0, 0.0, 0.0, 1.0);
  if (uBounceGain > 0.0) {
    // Of the four samples around, those that lie on the same surface.
    ivec2 half_ = textureSize(uBounce, 0);
    vec2 scale = vec2(half_) / uSize;
    vec2 place = (vec2(at) + 0.5) * scale - 0.5;
    ivec2 low = ivec2(floor(place));
    vec2 part = place - vec2(low);
    vec4 sum = vec4(0.0);
    float weights = 1e-5;
    for (int k = 0; k < 4; k++) {
      ivec2 t = clamp(low + ivec2(k & 1, k >> 1), ivec2(0), half_ - 1);
      ivec2 full = min(ivec2((vec2(t) + 0.5) / scale), ivec2(uSize) - 1);
      float d = texelFetch(uDistance, full, 0).r;
      vec3 m = texelFetch(uNormal, full, 0).xyz;
      float w = ((k & 1) == 1 ? part.x : 1.0 - part.x) * ((k >> 1) == 1 ? part.y : 1.0 - part.y) + 0.02;
      w *= max(1.0 - abs(d - away) / (0.05 * away), 0.001) * pow(max(dot(m, n), 0.01), 8.0);
      sum += texelFetch(uBounce, t, 0) * w;
      weights += w;
    }
    bounce = sum / weights;
  }
  float sky = 0.72 + 0.28 * n.z + 0.12 * n.y;
  vec3 lux = vec3(uWork * sky) + TUNGSTEN * (uHouse * (0.62 + 0.38 * n.z)) + max(bounce.rgb, 0.0) * uBounceGain;
  colour = vec4(clamp(a * a * lux * (bounce.a * uExposure / PI), 0.0, 60000.0), 1.0);
}
