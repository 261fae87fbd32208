// One truncated cone for each beam, 16 sides. `position`: x angle step, y 0 at the lens and 1 at the far
// end, z 0 on the axis and 1 on the rim.
in vec3 position;
uniform mat4 uViewProjection;
uniform float uRange; // metres
uniform float uOnly;  // the kind of beams that is drawn (beam.glsl), -1 all
flat out int vBeam;

void main() {
  vBeam = gl_VertexID / CONE;
  float kind = packedKind(vBeam);
  if (kind == 2.0 || (uOnly >= 0.0 && kind != uOnly)) { gl_Position = vec4(2.0, 2.0, 2.0, 1.0); return; }
  vec4 apex = packed_(vBeam, 0);
  vec3 along = packed_(vBeam, 1).xyz, side = packed_(vBeam, 2).xyz;
  float angle = position.x * (2.0 * PI / 16.0);
  vec3 around = side * cos(angle) - cross(side, along) * sin(angle);
  float z = mix(-0.01, uRange, position.y);
  // The polygon goes round the circle, not through it.
  float wide = (max(z, 0.0) + apex.w) * packed_(vBeam, 10).x * 1.03 + 0.01;
  vec3 p = apex.xyz + along * (apex.w + z) + around * (wide * position.z);
  gl_Position = uViewProjection * vec4(p, 1.0);
}
