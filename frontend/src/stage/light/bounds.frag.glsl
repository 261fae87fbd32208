// Where the surfaces of a tile of the picture lie: one ball round the nearer half of its depth and one round the further.
uniform sampler2D uDistance;
uniform vec2 uFull;   // pixels of the surfaces' target
layout(location = 0) out vec4 oNear;  // centre, radius; radius -1: nothing there
layout(location = 1) out vec4 oFar;
layout(location = 2) out vec4 oSplit; // metres along the ray where the one ends and the other begins

vec4 ball(vec3 o[4], vec3 d[4], vec2 reach) {
  vec3 middle = vec3(0.0);
  for (int k = 0; k < 4; k++) middle += o[k] + d[k] * (0.5 * (reach.x + reach.y));
  middle *= 0.25;
  float radius = 0.0;
  for (int k = 0; k < 4; k++) radius = max(radius, max(distance(middle, o[k] + d[k] * reach.x), distance(middle, o[k] + d[k] * reach.y)));
  // The chord between a tile's corners lies a little before the ball that its pixels are on.
  return vec4(middle, reach.y > 0.0 ? radius * 1.01 + 0.01 : -1.0);
}

void main() {
  ivec2 from = ivec2(gl_FragCoord.xy) * TILE, size = ivec2(uFull);
  float low = 1e9, high = 0.0;
  for (int y = 0; y < TILE; y++) for (int x = 0; x < TILE; x++) {
    float d = texelFetch(uDistance, min(from + ivec2(x, y), size - 1), 0).r;
    low = min(low, d > 0.0 ? d : 1e9);
    high = max(high, d);
  }
  float split = 0.5 * (low + high);
  float near_ = 0.0, far_ = 1e9;
  for (int y = 0; y < TILE; y++) for (int x = 0; x < TILE; x++) {
    float d = texelFetch(uDistance, min(from + ivec2(x, y), size - 1), 0).r;
    if (d > 0.0 && d <= split) near_ = max(near_, d);
    if (d > split) far_ = min(far_, d);
  }
  vec3 o[4], d[4];
  for (int k = 0; k < 4; k++) pixelRay(vec2(from + TILE * ivec2(k & 1, k >> 1)) / uFull, o[k], d[k]);
  oNear = ball(o, d, high > 0.0 ? vec2(low, near_) : vec2(0.0));
  oFar = ball(o, d, far_ < 1e8 ? vec2(far_, high) : vec2(0.0));
  oSplit = vec4(split, 0.0, 0.0, 0.0);
}
