// The mean of the samples of a still so far.
uniform sampler2D uSource;
uniform sampler2D uBefore;
uniform float uShare;      // of the new sample
layout(location = 0) out vec4 colour;
void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  colour = mix(texelFetch(uBefore, at, 0), texelFetch(uSource, at, 0), uShare);
}
