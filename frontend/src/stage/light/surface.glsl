// G-buffer outputs, shared by solids and bodies.
layout(location = 0) out vec4 oAlbedo;   // square root of reflectance, roughness
layout(location = 1) out vec4 oNormal;   // unit, show frame; metal, or below 0 the share that it lets through scattered
layout(location = 2) out vec4 oDistance; // metres along the ray of the pixel
uniform vec3 uEye;
uniform vec3 uForward;
uniform float uOrtho;

void writeSurface(vec3 albedo, vec3 normal, vec3 p, float rough, float metal) {
  oAlbedo = vec4(sqrt(clamp(albedo, 0.0, 1.0)), rough);
  oNormal = vec4(normalize(normal), metal);
  oDistance = vec4(uOrtho > 0.5 ? dot(p - uEye, uForward) : length(p - uEye), 0.0, 0.0, 1.0);
}
