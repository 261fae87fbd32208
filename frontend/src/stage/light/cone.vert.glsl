// One truncated cone for each beam, 16 sides, drawn instanced. `position`: x angle step, y 0 at the lens and 1 at the far
// end, z 0 on the axis and 1 on the rim.
in vec3 position;
uniform mat4 uViewProjection;
uniform float uRange; // metres
uniform float uOnly;  // 0 all beams, 1 smooth ones, 2 those with a pattern in the gate
PASS_BEAM(out)

void main() {
  Beam beam = fetchBeam(gl_InstanceID);
  PACK_BEAM(beam)
  if (dark(beam) || (uOnly > 0.5 && patterned(beam) != (uOnly > 1.5))) { gl_Position = vec4(2.0, 2.0, 2.0, 1.0); return; }
  float angle = position.x * (2.0 * PI / 16.0);
  vec3 up = cross(beam.side, beam.along);
  vec3 around = beam.side * cos(angle) - up * sin(angle);
  float z = mix(-0.01, uRange, position.y);
  // The polygon goes round the circle, not through it.
  float wide = (max(z, 0.0) + beam.apex) * beam.outer * 1.03 + 0.01;
  vec3 p = beam.lens + beam.along * z + around * (wide * position.z);
  gl_Position = uViewProjection * vec4(p, 1.0);
}
