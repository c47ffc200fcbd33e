import { fieldAt, hidden, lift, markTexel, rowTexel } from './rows.js';

/** Symbols at points, upright on the screen, from the sprite atlas. */
export const markShader = {
  vertex: `#version 300 es
precision highp float;
precision highp int;
uniform mat4 u_matrix;
uniform float u_mix;
uniform float u_opacity;
uniform float u_ratio;
uniform vec2 u_viewport;    // CSS pixels
uniform int u_pass;
${rowTexel}${markTexel}${lift}${hidden}
flat out vec4 v_color;
flat out vec4 v_rim;
flat out vec3 v_field;      // rim width and one device pixel, both in field units; sprite
out vec2 v_at;
const float cells = 16.0;
void main() {
  uvec3 own = markBits(boxNumber());
  vec2 place = uintBitsToFloat(own.xy);
  int t = int(own.z) + u_pass;
  vec4 form = texel(t + 2);
  float size = mix(form.x, form.y, u_mix);
  v_color = mix(texel(t), texel(t + 1), u_mix) * u_opacity;
  v_rim = texel(t + 3) * u_opacity;
  float rim = texel(t + 4).x;
  // Towards the rim of a globe symbols fade out: there they would hang in the air.
  float seen = smoothstep(0.06, 0.28, sight(place));
  v_color *= seen;
  v_rim *= seen;
  if (size <= 0.0 || (v_color.a <= 0.0 && v_rim.a <= 0.0) || seen <= 0.0) {
    gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
    return;
  }
  // 24 units of the drawing are 44 of the 64 pixels of a cell; the field runs over 10 pixels either way.
  float cell = size * 64.0 / 44.0;
  float fieldPerPixel = 44.0 / size / 20.0;
  v_field = vec3(rim * fieldPerPixel, fieldPerPixel / u_ratio, 0.0);
  vec2 corner = boxCorner();
  float c = cos(form.z);
  float s = sin(form.z);
  vec2 off = (corner - 0.5) * cell;
  off = vec2(off.x * c - off.y * s, off.x * s + off.y * c);
  vec4 at = u_matrix * ground(place);
  // Whole device pixels keep upright symbols crisp.
  vec2 pixel = (at.xy / at.w * 0.5 + 0.5) * u_viewport * u_ratio;
  pixel = floor(pixel + 0.5) / (u_viewport * u_ratio) * 2.0 - 1.0;
  gl_Position = vec4(pixel + vec2(off.x, -off.y) * 2.0 / u_viewport, 0.0, 1.0);
  float sprite = floor(form.w + 0.5);
  v_at = (vec2(mod(sprite, cells), floor(sprite / cells)) + corner) / cells;
}`,
  fragment: `#version 300 es
precision highp float;
flat in vec4 v_color;
flat in vec4 v_rim;
flat in vec3 v_field;
in vec2 v_at;
uniform sampler2D u_atlas;
out vec4 o_color;
void main() {
${fieldAt}
  float whole = clamp((field + v_field.x) / v_field.y + 0.5, 0.0, 1.0);
  o_color = color * body + v_rim * (v_field.x > 0.0 ? whole * (1.0 - body) : 0.0);
  if (o_color.a <= 0.0) discard;
}`,
};
