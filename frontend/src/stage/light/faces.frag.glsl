// What a face is made of: its own colour varied by a texture in its own space that leaves the mean as it is, and how it
// shines. Textures fade where a pixel spans them.
in vec3 vPlace; in vec3 vNormal; flat in vec4 vTint; in float vPart;
in vec3 vOwn; in vec3 vOwnNormal; flat in vec3 vFinish;
uniform float uPixel;
uniform float uLines; // 1: drawn as lines
uniform float uUnlit; // 1: plainly shaded
uniform vec3 uBeyond; // the middle of what is built: what stands before it may be cut away (scene/cutaway.ts)
uniform float uCutAt; // a section: how far along the sight it is cut, metres; 0: none
precision highp sampler3D;
uniform sampler3D uClouds; // lumps of mean one half, 32 to a side

float lumps(vec3 p) { return textureLod(uClouds, p / 32.0, 0.0).r * 2.0 - 1.0; }
float scattered_(vec2 p) { return fract(sin(dot(p, vec2(12.9898, 78.233))) * 43758.5453) * 2.0 - 1.0; }

#ifdef CUTS
// Whether a face is left out because it stands in the way: vFinish.x / 32 says how its thing is cut, vPart where it looks.
bool cutAway() {
  float how = floor(vFinish.x / 32.0);
  if (how < 0.5 || (how < 2.5 && uOrtho < 0.5 && vOwn.z < 0.15)) return false;
  vec3 eye = uOrtho > 0.5 ? -uForward : uEye - vPlace, beyond = uBeyond - vPlace;
  if (vPart > 5.5) {
    float heading = (vPart - 6.0) * 6.2831853;
    vec3 ahead = vec3(cos(heading), sin(heading), 0.0);
    return how < 1.5 ? dot(ahead, eye) > 0.0 : dot(ahead, eye) * dot(ahead, beyond) < 0.0;
  }
  if (how < 1.5) return vPart > 4.5;
  return dot(vNormal, beyond) < 0.0 && (how > 2.5 || abs(vNormal.z) < 0.5);
}
#endif

#ifdef VEIL
uniform highp sampler2D uBehind; // metres along the ray of the pixel to what is opaque, 0 for nothing
#endif

void main() {
#ifdef CUTS
  if (gl_FrontFacing && cutAway()) discard;
#endif
#ifdef VEIL
  float behind = texelFetch(uBehind, ivec2(gl_FragCoord.xy), 0).r, away = mix(distance(vPlace, uEye), dot(vPlace - uEye, uForward), uOrtho);
  if (behind > 0.0 && away > behind) discard;
#endif
  // Parts of core/mesh.py: own colour, skin, hair, a darker shade. vTint.a is the thing's own number, 0..1.
  vec3 skin = mix(vec3(0.16, 0.085, 0.055), vec3(0.62, 0.42, 0.32), fract(vTint.a * 7.31));
  vec3 hair = mix(vec3(0.02, 0.017, 0.015), vec3(0.20, 0.14, 0.085), pow(fract(vTint.a * 13.7), 3.0));
  vec3 own = vPart < 0.5 ? vTint.rgb : vPart < 1.5 ? skin : vPart < 2.5 ? hair : vPart < 3.5 ? vTint.rgb * 0.45 : vTint.rgb;
  int f = int(mod(vFinish.x + 0.5, 32.0));
  vec3 n = abs(vOwnNormal);
  // Along and up the face that this is, metres.
  vec2 face = n.z > 0.7 ? vOwn.xy : n.x > n.y ? vOwn.yz : vOwn.xz;
  float spans = uPixel * mix(distance(vPlace, uEye), 1.0, uOrtho);
  float fine = 1.0 - smoothstep(0.012, 0.05, spans), coarse = 1.0 - smoothstep(0.05, 0.2, spans);
  float worn = lumps(vOwn * 2.3 + vTint.a * 17.0), close = lumps(vOwn * 37.0) * fine;
  float varied = 0.05 * worn, rough = 0.7, metal = 0.0;
  if (f == 1) { varied = 0.10 * worn + 0.05 * close; rough = 0.42 + 0.10 * worn; }
  if (f == 2) { varied = 0.05 * worn; rough = 0.14 + 0.03 * worn; }
  if (f == 3) {
    // Boards 14 cm wide, each with its own tone and grain.
    float board = face.y / 0.14, at = fract(board), own_ = scattered_(vec2(floor(board), vTint.a));
    float gap = (1.0 - smoothstep(0.0, 0.03, min(at, 1.0 - at))) * fine;
    varied = (0.14 * own_ + 0.10 * lumps(vec3(face.x * 1.5, face.y * 60.0, own_ * 9.0)) * fine) * coarse - 0.35 * gap + 0.012 * fine;
    rough = 0.5 + 0.1 * own_;
  }
  if (f == 4) { varied = 0.03 * worn + 0.04 * close; rough = 1.0; }
  if (f == 5 && n.z < 0.7) {
    // Courses of 7.5 cm, bricks of 24 cm, every other course half a brick on.
    float course = face.y / 0.075, along = face.x / 0.24 + 0.5 * mod(floor(course), 2.0);
    vec2 in_ = vec2(fract(along), fract(course)), edge = min(in_, 1.0 - in_) * vec2(0.24, 0.075);
    float joint = (1.0 - smoothstep(0.003, 0.008, min(edge.x, edge.y))) * fine;
    varied = (0.16 * scattered_(vec2(floor(along), floor(course))) + 0.06 * close) * coarse + joint * 0.28 - 0.05 * fine + 0.08 * worn;
    rough = 0.85;
  }
  if (f == 5 && n.z >= 0.7) { varied = 0.12 * worn + 0.05 * close; rough = 0.6 + 0.1 * worn; }
  if (f == 6) { varied = 0.04 * worn; rough = 0.36; metal = 0.75; }
  if (f == 7) { varied = 0.04 * worn; rough = vPart > 0.5 && vPart < 1.5 ? 0.5 : vPart > 1.5 && vPart < 2.5 ? 0.45 : 0.97; }
  // What light comes through is no metal.
  if (f >= 8) { varied = 0.03 * worn; rough = 1.0; metal = -vFinish.z; }
  // The inside of what a section cuts is its cut face: flat, where the cut is, and told by a metal that no thing has.
  if (uCutAt > 0.0 && !gl_FrontFacing) {
    float beyondCut = dot(vPlace - uEye, uForward) - uCutAt;
    writeSurface(vec3(0.004), -uForward, vPlace - uForward * beyondCut, 1.0, uLines + uUnlit > 0.5 ? 2.0 : 0.0);
    return;
  }
  // In a drawing people are outlines: no folds, and no steps but great ones.
  bool outline = f == 7 && uLines > 0.5;
  float deep = dot(vPlace, uForward);
  vec3 place = outline ? vPlace + uForward * (floor(deep / 0.8) * 0.8 - deep) : vPlace;
  writeSurface(own * (1.0 + varied), outline ? -uForward : vNormal, place, rough, metal);
}
