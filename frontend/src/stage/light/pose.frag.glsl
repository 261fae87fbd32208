// Where the parts of each fixture are, worked out once a frame: for what stays, what pans, and what pans and tilts, the
// three rows of the matrix from the part's own frame to the show's. Texels: x (beam % 64) . 9 + part . 3 + row.
uniform int uCount;
layout(location = 0) out vec4 colour;

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  int beam = at.y * PER_ROW + at.x / 9, part = (at.x % 9) / 3, row = at.x % 3;
  beam = min(beam, uCount - 1);
  vec3 x = posed(beam, part, vec3(1.0, 0.0, 0.0), 0.0), y = posed(beam, part, vec3(0.0, 1.0, 0.0), 0.0);
  vec3 z = cross(x, y), o = posed(beam, part, vec3(0.0), 1.0);
  colour = row == 0 ? vec4(x.x, y.x, z.x, o.x) : row == 1 ? vec4(x.y, y.y, z.y, o.y) : vec4(x.z, y.z, z.z, o.z);
}
