/** A box over the whole screen; `v_at` runs from 0 to 1 both ways. */
export const screenVertex = `#version 300 es
out vec2 v_at;
void main() {
  v_at = vec2(float(gl_VertexID & 1), float(gl_VertexID >> 1));
  gl_Position = vec4(v_at * 2.0 - 1.0, 0.0, 1.0);
}`;

/** The whole screen from a texture, fading. */
export const screenShader = {
  vertex: screenVertex,
  fragment: `#version 300 es
precision mediump float;
in vec2 v_at;
uniform sampler2D u_picture;
uniform float u_opacity;
out vec4 o_color;
void main() { o_color = texture(u_picture, v_at) * u_opacity; }`,
};
