// Plans and elevations as lines where surfaces end, or unlit: plain shading by which way a surface faces, and faint lines.
uniform sampler2D uAlbedo;
uniform sampler2D uNormal;
uniform sampler2D uDistance;
uniform vec2 uSize;
uniform vec2 uCorner;
uniform float uUnlit;      // 1: shaded
uniform vec3 uGround;      // colours of the theme, sRGB
uniform vec3 uLine;
uniform vec3 uFill;
uniform vec3 uCutLine;
uniform float uReach;      // metres a pixel step may differ before it is an edge
uniform vec3 uForward;
layout(location = 0) out vec4 colour;

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy - uCorner);
  float d = texelFetch(uDistance, at, 0).r;
  vec4 face = texelFetch(uNormal, at, 0);
  vec3 n = face.xyz;
  // Cut faces are hatched, in a heavy line of two pixels.
  bool cut = face.w > 1.5;
  float edge = 0.0, heavy = 0.0;
  for (int k = 0; k < 4; k++) {
    ivec2 to = clamp(at + ivec2(k == 0 ? 1 : k == 1 ? -1 : 0, k == 2 ? 1 : k == 3 ? -1 : 0), ivec2(0), ivec2(uSize) - 1);
    float e = texelFetch(uDistance, to, 0).r;
    bool other = texelFetch(uNormal, to, 0).w > 1.5, further = texelFetch(uNormal, clamp(2 * to - at, ivec2(0), ivec2(uSize) - 1), 0).w > 1.5;
    if (cut && !(other && further)) heavy = 1.0;
    float bend = 1.0 - dot(n, texelFetch(uNormal, to, 0).xyz);
    if ((d > 0.0) != (e > 0.0)) edge = 1.0;
    else edge = max(edge, max(smoothstep(uReach, uReach * 3.0, abs(d - e)), smoothstep(0.15, 0.5, bend) * step(0.001, d)));
  }
  vec3 a = texelFetch(uAlbedo, at, 0).rgb;
  vec3 base = uGround;
  if (d > 0.0 && uUnlit > 0.5) {
    float facing = 0.42 + 0.34 * max(dot(n, -uForward), 0.0) + 0.24 * max(n.z, 0.0);
    base = mix(uFill, a * 1.15, 0.8) * facing;
  } else if (d > 0.0) base = mix(uGround, uFill, 0.35 + 0.65 * clamp(a.g, 0.0, 1.0));
  if (cut) base = mix(uGround, uCutLine, 0.14 + 0.4 * step(mod(float(at.x + at.y), 7.0), 0.9));
  vec3 drawn = mix(base, uLine, edge * (uUnlit > 0.5 ? 0.28 : 0.8));
  colour = vec4(mix(drawn, uCutLine, heavy), 1.0);
}
