// What a piece of a laser's figure lights: the haze along its way, and the surface where it ends. A piece is a beam of a few
// milliradians that is drawn over in its share of the time: its light is its lumen, spread over the angle that it covers.
flat in vec3 vLens;
flat in vec3 vWay;
flat in vec3 vAlong;
flat in vec3 vLumen;
flat in vec4 vBeam;
flat in float vReach;
in vec2 vAt;
uniform sampler2D uDistance;
uniform sampler2D uAlbedo;
uniform sampler2D uNormal;
uniform vec2 uSize;
uniform float uExposure;
uniform float uHaze;
uniform float uShaftGain;
uniform float uPoolGain;
uniform float uFigureAir; // 1: haze as well, 0: surfaces only
layout(location = 0) out vec4 colour;

const float G = 0.6; // Henyey-Greenstein

float phase(float c) { float k = 1.0 + G * G - 2.0 * G * c; return (1.0 - G * G) / (4.0 * PI * k * sqrt(k)); }
// The share of a strip so wide that a pixel `off` its middle sees, over its width: no light is lost where it is thinner.
float covered(float wide, float pixel, float off) { return clamp((0.5 * (wide + pixel) - abs(off)) / pixel, 0.0, min(1.0, wide / pixel)) / wide; }

void main() {
  vec2 uv = gl_FragCoord.xy / uSize;
  vec3 origin, direction;
  pixelRay(uv, origin, direction);
  ivec2 at = ivec2(gl_FragCoord.xy);
  float away = texelFetch(uDistance, at, 0).r;
  vec3 sum = vec3(0.0);

  vec3 p = vLens + vWay * vAt.x;
  float t = dot(p - origin, direction);
  float pixel = uPixel * (uOrtho > 0.5 ? 1.0 : max(t, 0.05));
  float slant = length(cross(direction, vWay));
  if (uFigureAir > 0.5 && t > 0.0 && (away <= 0.0 || t < away)) {
    vec3 across = normalize(cross(vWay, direction) + vec3(1e-6, 0.0, 0.0));
    float wide = max(vAt.x * vBeam.x * abs(dot(vAlong, across)) + vBeam.y + vAt.x * vBeam.z, 1e-4);
    float through = covered(wide, pixel, vAt.y);
#ifdef SHADOWS
    through *= lightReaching(vBeam.w, p, -vWay, vWay * max(vAt.x, 0.05), vReach, 1);
#endif
    // Light that goes on nearly as it came is the brightest.
    float scattered = phase(dot(vWay, -direction)) * exp(-uHaze * (vAt.x + t)) / max(slant, 0.03);
    sum += vLumen * (uHaze * uShaftGain * through * scattered);
  }

  if (away > 0.0) {
    vec3 s = origin + direction * away, q = s - vLens;
    float d = length(q);
    vec3 off = q / d - vWay;
    vec3 thick = normalize(cross(vWay, vAlong));
    vec4 facing = texelFetch(uNormal, at, 0), root = texelFetch(uAlbedo, at, 0);
    float incidence = abs(dot(facing.xyz, q)) / d;
    float sight = max(abs(dot(facing.xyz, direction)), 0.15);
    float print = uPixel * (uOrtho > 0.5 ? 1.0 : away) / sight;
    float w = max(vBeam.y + d * vBeam.z, 1e-4), wide = d * vBeam.x + w;
    float lux = covered(wide, print, d * dot(off, vAlong)) * covered(w, print, d * dot(off, thick)) * incidence;
    if (lux > 0.0 && dot(q, vWay) > 0.0) {
#ifdef SHADOWS
      lux *= lightReaching(vBeam.w, s, facing.xyz, q, vReach, 4);
#endif
      sum += root.rgb * root.rgb / PI * vLumen * (lux * uPoolGain * exp(-uHaze * (d + away)));
    }
  }
  colour = vec4(clamp(sum * uExposure, -500.0, 60000.0), 0.0);
}
