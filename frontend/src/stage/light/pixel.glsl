// The ray through a pixel, for perspective and orthographic cameras alike.
uniform mat4 uInverse;   // clip space to show frame
uniform vec3 uEye;       // camera position
uniform float uOrtho;    // 1 for an orthographic camera

void pixelRay(vec2 uv, out vec3 origin, out vec3 direction) {
  vec4 a = uInverse * vec4(uv * 2.0 - 1.0, -1.0, 1.0), b = uInverse * vec4(uv * 2.0 - 1.0, 1.0, 1.0);
  vec3 near_ = a.xyz / a.w, far_ = b.xyz / b.w;
  direction = normalize(far_ - near_);
  origin = uOrtho > 0.5 ? near_ + direction * dot(uEye - near_, direction) : uEye;
}
