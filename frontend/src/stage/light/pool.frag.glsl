// What beams lay on the surface behind a pixel: (reflectance / pi and a lobe) . E, with E = I . cos / d^2, times exposure. Each pixel
// walks the bits of its tile: the inner loop looks for the next beam whose cone holds the place, so that the rest is worked
// out for those alone.
precision highp usampler2D;
uniform usampler2D uMask;
uniform sampler2D uSplit;
uniform sampler2D uAlbedo;    // square root of reflectance
uniform sampler2D uNormal;    // unit, show frame
uniform sampler2D uDistance;  // metres along the ray, 0 for nothing
uniform vec2 uSize;           // pixels
uniform float uExposure;      // shown = luminance . exposure
uniform float uHaze;          // 1/m
uniform float uPoolGain;
uniform float uShine;         // 1: faces shine as they are made; 0: matt, as lux are read
uniform int uWords;
uniform int uCount;
flat in ivec2 vTile;
layout(location = 0) out vec4 colour;

uint bitsOf(int group, int slab) {
  uvec4 word = texelFetch(uMask, ivec2(vTile.x * uWords + group / 4, vTile.y * 2 + slab), 0);
  int part = group & 3;
  return part == 0 ? word.x : part == 1 ? word.y : part == 2 ? word.z : word.w;
}

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  float away = texelFetch(uDistance, at, 0).r;
  vec3 origin, direction;
  pixelRay(gl_FragCoord.xy / uSize, origin, direction);
  vec4 facing = texelFetch(uNormal, at, 0), root = texelFetch(uAlbedo, at, 0);
  vec3 p = origin + direction * away, normal = facing.xyz, albedo = root.rgb * root.rgb;
  // A lobe round the mirror's way: GGX, with the short form of its visibility (Karis 2013). Cloth has none.
  float a2 = max(pow(root.a, 4.0), 1e-4), shines = uShine * (1.0 - smoothstep(0.85, 0.97, root.a));
  float metal = max(facing.w, 0.0), lets = max(-facing.w, 0.0);
  vec3 mirror = mix(vec3(0.04), albedo, metal) * shines, matt = albedo * (1.0 - 0.6 * metal * shines) / PI;
  // From behind, in the colour of the cloth.
  vec3 behind = albedo * (lets / (PI * max(max(albedo.r, albedo.g), max(albedo.b, 0.01))));
  float footprint = uPixel * mix(away, 1.0, uOrtho) * 0.5;
  int slab = away > texelFetch(uSplit, vTile, 0).r ? 1 : 0;
  int groups = away > 0.0 ? (uCount + 31) / 32 : 0, group = -1;
  uint bits = 0u;
  vec3 sum = vec3(0.0);
  for (;;) {
    int found = -1;
    for (;;) {
      if (bits == 0u) {
        if (++group >= groups) break;
        bits = bitsOf(group, slab);
      } else {
        uint low = bits & (~bits + 1u);
        bits ^= low;
        int i = group * 32 + int(floatBitsToUint(float(low)) >> 23) - 127;
        vec4 apex = packed_(i, 0), along = packed_(i, 1);
        vec3 v = p - apex.xyz;
        float ahead = dot(v, along.xyz);
        if (ahead >= apex.w && dot(v, v) <= ahead * ahead * along.w && (dot(normal, v) < 0.0 || lets > 0.0)) { found = i; break; }
      }
    }
    if (found < 0) break;
    Beam beam = beamAt(found);
    vec3 fromApex = p - (beam.lens - beam.along * beam.apex);
    float d2 = dot(fromApex, fromApex);
    float cosine = dot(normal, -fromApex) * inversesqrt(d2), front = step(0.0, cosine), incidence = mix(lets > 0.0 ? -cosine : 0.0, cosine, front);
    float through = shape(beam, fromApex, footprint);
#ifdef SHADOWS
    // Through a sheet: from its other side.
    through *= lightReaching(beam.tile, p - normal * (0.12 * (1.0 - front)), normal * (2.0 * front - 1.0), fromApex, beam.outer, 4);
#endif
    float loss = exp(-uHaze * (length(p - beam.lens) + away));
    vec3 toLight = -fromApex * inversesqrt(d2), between = normalize(toLight - direction);
    float nh = max(dot(normal, between), 0.0), lh = max(dot(toLight, between), 0.0), k = nh * nh * (a2 - 1.0) + 1.0;
    float lobe = min(a2 / (PI * k * k) / (4.0 * lh * lh * (root.a + 0.5) + 1e-3), 60.0);
    sum += mix(behind, matt + mirror * lobe, front) * beam.candela * (through * incidence / d2 * loss);
  }
  colour = vec4(clamp(sum * (uExposure * uPoolGain), -500.0, 60000.0), 1.0);
}
