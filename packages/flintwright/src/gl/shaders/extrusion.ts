import { lift, rowTexel } from './rows.js';
import { screenVertex } from './screen.js';

const head = `#version 300 es
precision highp float;
precision highp int;
layout(location=0) in vec2 a_place;
layout(location=1) in vec2 a_normal;
layout(location=2) in uint a_texel;   // twice the texel, plus one at the top
uniform mat4 u_matrix;
uniform float u_mix;
uniform float u_metre;      // meters of the surface in a meter on the ground
uniform int u_pass;
${rowTexel}${lift}
// Where the light comes from: the north-west.
const vec2 light = vec2(-0.6, 0.8);`;

/** Polygons raised from the ground. Their walls are lit by direction and darker at the foot, with a bright edge along the roof. */
export const extrusionShader = {
  vertex: `${head}
uniform float u_opacity;
out vec4 v_color;
out float v_height;         // 0 at the foot of a wall to 1 at its top; 2 on roofs
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
  float lit = roof ? 1.0 : 0.72 + 0.26 * dot(a_normal, light);
  v_color = vec4(color.rgb * lit, color.a) * u_opacity;
  v_height = roof ? 2.0 : top ? 1.0 : 0.0;
  gl_Position = u_matrix * vec4(a_place, lift(a_place) + (top ? heights.x : heights.y) * u_metre, 1.0);
}`,
  fragment: `#version 300 es
precision highp float;
in vec4 v_color;
in float v_height;
uniform float u_ratio;      // device pixels in a CSS pixel
out vec4 o_color;
void main() {
  float down = 1.0 - v_height;
  float foot = 1.0 - 0.2 * max(0.0, down) * max(0.0, down);
  // The edge of the roof is a CSS pixel of the wall below it; walls of few pixels have less of it.
  float pixel = fwidth(v_height) * u_ratio;
  float edge = v_height > 1.5 ? 0.0 : clamp(1.5 - down / max(pixel, 1e-6), 0.0, 1.0) * clamp(0.4 / max(pixel, 1e-6) - 0.6, 0.0, 1.0);
  o_color = vec4(mix(v_color.rgb * foot, min(v_color.rgb * 1.12 + 0.1 * v_color.a, vec3(v_color.a)), edge * 0.55), v_color.a);
}`,
};

/** What raised polygons cover when the light lays them on the ground. */
export const shadowShader = {
  vertex: `${head}
void main() {
  int t = int(a_texel >> 1u) + u_pass;
  bool top = (a_texel & 1u) == 1u;
  vec4 form = texel(t + 2);
  vec2 heights = mix(vec2(form.x, form.z), vec2(form.y, form.w), u_mix);
  if (mix(texel(t), texel(t + 1), u_mix).a <= 0.0 || heights.x <= heights.y) {
    gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
    return;
  }
  // The shadow of a height is half as long as it.
  vec2 place = a_place - light * (0.5 * u_metre * (top ? heights.x : heights.y));
  gl_Position = u_matrix * ground(place);
}`,
  fragment: `#version 300 es
precision mediump float;
out vec4 o_color;
void main() { o_color = vec4(1.0); }`,
};

/** Lays the shadows over the ground, softened over some texels. */
export const shadeShader = {
  vertex: screenVertex,
  fragment: `#version 300 es
precision highp float;
in vec2 v_at;
uniform sampler2D u_shadow;
uniform float u_opacity;
out vec4 o_color;
void main() {
  vec2 texel = 1.0 / vec2(textureSize(u_shadow, 0));
  float sum = 0.0;
  float weights = 0.0;
  for (int x = -2; x <= 2; x++)
    for (int y = -2; y <= 2; y++) {
      float weight = exp(-0.35 * float(x * x + y * y));
      sum += weight * texture(u_shadow, v_at + vec2(float(x), float(y)) * texel).r;
      weights += weight;
    }
  o_color = vec4(0.0, 0.0, 0.0, sum / weights * u_opacity);
}`,
};
