// What a beam lays on the surface behind a pixel: reflectance . E / pi, with E = I . cos / d^2, times exposure.
PASS_BEAM(in)
uniform sampler2D uAlbedo;    // square root of reflectance
uniform sampler2D uNormal;    // unit, show frame
uniform sampler2D uDistance;  // metres along the ray, 0 for nothing
uniform vec2 uSize;           // pixels
uniform vec2 uCorner;         // lower left of the pane's target, pixels
uniform float uExposure;      // shown = luminance . exposure
uniform float uHaze;          // 1/m
uniform float uPoolGain;
layout(location = 0) out vec4 colour;

void main() {
  vec2 uv = (gl_FragCoord.xy - uCorner) / uSize;
  ivec2 at = ivec2(gl_FragCoord.xy);
  float away = texelFetch(uDistance, at, 0).r;
  if (away <= 0.0) discard;
  UNPACK_BEAM(beam)
  vec3 origin, direction;
  pixelRay(uv, origin, direction);
  vec3 p = origin + direction * away;
  vec3 fromApex = p - (beam.lens - beam.along * beam.apex);
  float d2 = dot(fromApex, fromApex), ahead = dot(fromApex, beam.along);
  // Outside the cone, or behind the lens.
  if (ahead < beam.apex || d2 > ahead * ahead * (1.0 + beam.outer * beam.outer)) discard;
  vec3 normal = texelFetch(uNormal, at, 0).xyz;
  float incidence = max(dot(normal, -fromApex) * inversesqrt(d2), 0.0);
  if (incidence <= 0.0) discard;
  float footprint = uPixel * mix(away, 1.0, uOrtho) * 0.5;
  float through = shape(beam, fromApex, footprint, true);
  if (through <= 0.0) discard;
  through *= lightReaching(beam.rest.w, p, normal, fromApex, 4);
  float loss = exp(-uHaze * (length(p - beam.lens) + away));
  vec3 albedo = texelFetch(uAlbedo, at, 0).rgb;
  vec3 light = beam.candela * (through * incidence / d2 * loss * uExposure * uPoolGain / PI);
  colour = vec4(clamp(albedo * albedo * light, -500.0, 60000.0), 1.0);
}
