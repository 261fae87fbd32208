// A picture that was drawn with fewer pixels than the pane has.
uniform sampler2D uShown;
uniform vec2 uSize;
uniform vec2 uCorner;
layout(location = 0) out vec4 colour;

void main() { colour = vec4(texture(uShown, (gl_FragCoord.xy - uCorner) / uSize).rgb, 1.0); }
