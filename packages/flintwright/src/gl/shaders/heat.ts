import { hidden, lift, markTexel, rowTexel } from './rows.js';
import { screenVertex } from './screen.js';

/** Adds up what the points of a heat give, each a bell around its place. */
export const heatShader = {
  vertex: `#version 300 es
precision highp float;
precision highp int;
uniform mat4 u_matrix;
uniform float u_mix;
uniform float u_ground;     // pixels in a meter on the ground
uniform vec2 u_viewport;    // CSS pixels
uniform float u_scale;      // what one unit of weight adds
uniform int u_pass;
${rowTexel}${markTexel}${lift}${hidden}
out vec2 v_at;
flat out float v_weight;
void main() {
  uvec3 own = markBits(boxNumber());
  vec2 place = uintBitsToFloat(own.xy);
  vec4 form = texel(int(own.z) + u_pass);
  v_weight = mix(form.x, form.y, u_mix) * u_scale;
  float radius = mix(abs(form.z), abs(form.w), u_mix) * (form.z < 0.0 ? u_ground : 1.0);
  if (v_weight <= 0.0 || radius <= 0.0 || sight(place) <= 0.0) {
    gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
    return;
  }
  v_at = boxCorner() * 2.0 - 1.0;
  vec4 at = u_matrix * ground(place);
  gl_Position = vec4(at.xy / at.w + v_at * radius * 2.0 / u_viewport, 0.0, 1.0);
}`,
  fragment: `#version 300 es
precision highp float;
in vec2 v_at;
flat in float v_weight;
out vec4 o_color;
void main() {
  float d = dot(v_at, v_at);
  if (d > 1.0) discard;
  float bell = (exp(-4.5 * d) - 0.0111) / 0.9889;
  o_color = vec4(v_weight * bell);
}`,
};

/** Colors the sums by a ramp. */
export const heatColorShader = {
  vertex: screenVertex,
  fragment: `#version 300 es
precision highp float;
in vec2 v_at;
uniform sampler2D u_sums;
uniform sampler2D u_ramps;
uniform float u_row;
uniform float u_knee;       // 1 where the ramp goes on beyond a sum of 1, ever more slowly; 0 where it ends there
uniform float u_opacity;
out vec4 o_color;
void main() {
  float sum = texture(u_sums, v_at).r;
  if (sum <= 0.0) discard;
  if (u_knee > 0.5) {
    float square = sum * sum;
    sum *= inversesqrt(sqrt(1.0 + square * square));
  }
  o_color = texture(u_ramps, vec2(clamp(sum, 0.002, 0.998), u_row)) * u_opacity;
}`,
};
