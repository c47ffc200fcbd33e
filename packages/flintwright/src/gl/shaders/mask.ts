export const maskShader = {
  vertex: `#version 300 es
layout(location=0) in vec4 a_clip;
void main() { gl_Position = a_clip; }`,
  fragment: `#version 300 es
precision lowp float;
out vec4 o_color;
void main() { o_color = vec4(0.0); }`,
};
