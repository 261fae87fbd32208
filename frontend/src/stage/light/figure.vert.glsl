// A quad for each piece of what a laser draws: from the lens as far as light goes, across the way of the eye, as wide as the
// piece looks from there, and a pixel more. `position`: x -1 or 1 across, y -1 at the lens and 1 at the far end.
in vec3 position;
uniform mat4 uViewProjection;
uniform sampler2D uFigures; // three texels a piece (scene/lasers.ts)
uniform vec3 uEyeAt;
uniform vec3 uForward;
uniform float uOrtho;
uniform float uRange;       // metres
flat out vec3 vLens;
flat out vec3 vWay;         // the middle of the piece
flat out vec3 vAlong;       // from its one end to the other, unit
flat out vec3 vLumen;
flat out vec4 vBeam;        // angle of the piece, width at the lens, growth, shadow tile
flat out float vReach;      // tangent that the shadow tile covers
out vec2 vAt;               // metres from the lens; across, metres

const int PIECES = 320;
const float UPRIGHT = 0.985; // as core/lasers/heads.py

vec4 texel_(int piece, int k) { return texelFetch(uFigures, ivec2((piece % PIECES) * 3 + k, piece / PIECES), 0); }

vec3 toward(mat3 axes, vec2 angle) {
  return axes * vec3(sin(angle.x) * cos(angle.y), sin(angle.y), cos(angle.x) * cos(angle.y));
}

float pixelAt(vec3 p) { return uPixel * (uOrtho > 0.5 ? 1.0 : max(distance(p, uEyeAt), 0.05)); }

void main() {
  int piece = gl_VertexID / SQUARE;
  vec4 ends = texel_(piece, 0), light = texel_(piece, 1), width = texel_(piece, 2);
  int row = int(light.w + 0.5);
  vec4 apex = packed_(row, 0);
  vec3 along = packed_(row, 1).xyz, side = packed_(row, 2).xyz;
  vLens = apex.xyz + along * apex.w;
  vec3 up = abs(along.z) > UPRIGHT ? cross(side, along) : vec3(0.0, 0.0, 1.0);
  vec3 right = normalize(cross(along, up));
  mat3 axes = mat3(right, cross(right, along), along);
  vec3 first = toward(axes, ends.xy), last = toward(axes, ends.zw);
  vWay = normalize(first + last);
  vec3 between = last - first;
  float angle = length(between);
  vAlong = angle > 1e-7 ? between / angle : right;
  vLumen = light.rgb;
  vBeam = vec4(angle, width.x, width.y, packed_(row, 6).w);
  vReach = width.z;
  float d = position.y > 0.0 ? uRange : 0.0;
  vec3 p = vLens + vWay * d;
  vec3 eye = uOrtho > 0.5 ? -uForward : normalize(uEyeAt - p);
  vec3 across = cross(vWay, eye);
  float size = length(across);
  across = size > 1e-4 ? across / size : right;
  float half_ = 0.5 * (d * angle * abs(dot(vAlong, across)) + width.x + d * width.y) + pixelAt(p);
  vAt = vec2(d, position.x * half_);
  gl_Position = uViewProjection * vec4(p + across * vAt.y, 1.0);
}
