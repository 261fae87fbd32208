// How much light goes straight through the threads of a face, of its own thread's colour or none: open to the power of
// 1 / cosine (core/raycast.py), each of a sheet's two faces half of it. Multiplied into what is there.
in vec3 vPlace; in vec3 vNormal; flat in vec3 vFinish;
layout(location = 0) out vec4 colour;
#ifdef CASTING
uniform vec3 uLightAt; // where the light comes from
in float vAlong;       // metres along its axis
#else
uniform vec3 uEye;
uniform vec3 uForward;
uniform float uOrtho;
uniform highp sampler2D uBehind; // metres along the ray of the pixel to what is opaque, 0 for nothing
#endif

void main() {
#ifdef CASTING
  vec3 way = vPlace - uLightAt;
  float along = vAlong;
#else
  vec3 way = uOrtho > 0.5 ? uForward : vPlace - uEye;
  float away = uOrtho > 0.5 ? dot(vPlace - uEye, uForward) : length(way), behind = texelFetch(uBehind, ivec2(gl_FragCoord.xy), 0).r;
  if (behind > 0.0 && away > behind) discard;
  float along = 1.0;
#endif
  float cosine = max(abs(dot(normalize(vNormal), normalize(way))), 0.05);
  colour = vec4(vec3(pow(vFinish.y, 0.5 / cosine)), along);
}
