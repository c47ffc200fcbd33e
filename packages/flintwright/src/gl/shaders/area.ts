import { areaHead, lift, placed, rowTexel } from './rows.js';

export const areaShader = {
  vertex: `${areaHead}
${rowTexel}${lift}${placed}
flat out vec4 v_color;
void main() {
  int t = int(a_texel);
  v_color = mix(texel(t), texel(t + 1), u_mix) * u_opacity;
  gl_Position = v_color.a > 0.0 ? placed(u_matrix, a_place) : vec4(2.0, 2.0, 2.0, 1.0);
}`,
  fragment: `#version 300 es
precision mediump float;
flat in vec4 v_color;
out vec4 o_color;
void main() { o_color = v_color; }`,
};
