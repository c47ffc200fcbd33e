import { lift, rowTexel } from './rows.js';

/** Polygons raised from the ground, lit from the north-west. */
export const extrusionShader = {
  vertex: `#version 300 es
precision highp float;
precision highp int;
layout(location=0) in vec2 a_place;
layout(location=1) in vec2 a_normal;
layout(location=2) in uint a_texel;   // twice the texel, plus one at the top
uniform mat4 u_matrix;
uniform float u_mix;
uniform float u_opacity;
uniform float u_metre;      // metres of the surface in a metre on the ground
uniform int u_pass;
${rowTexel}${lift}
out vec4 v_color;
void main() {
  int t = int(a_texel >> 1u) + u_pass;
  bool top = (a_texel & 1u) == 1u;
  vec4 form = texel(t + 2);
  vec2 heights = mix(vec2(form.x, form.z), vec2(form.y, form.w), u_mix);
  vec4 color = mix(texel(t), texel(t + 1), u_mix);
  if (color.a <= 0.0 || heights.x <= heights.y) {
    gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
    return;
  }
  bool roof = dot(a_normal, a_normal) < 0.5;
  float light = roof ? 1.0 : 0.8 + 0.13 * dot(a_normal, vec2(-0.6, 0.8)) - (top ? 0.0 : 0.09);
  v_color = vec4(color.rgb * light, color.a) * u_opacity;
  gl_Position = u_matrix * vec4(a_place, lift(a_place) + (top ? heights.x : heights.y) * u_metre, 1.0);
}`,
  fragment: `#version 300 es
precision mediump float;
in vec4 v_color;
out vec4 o_color;
void main() { o_color = v_color; }`,
};
