import { areaHead, lift, placed, rowTexel } from './rows.js';

/**
 * Fills with a hatch or icons over them. The pattern lies on the ground, grows with it between whole zoom levels, and is mixed
 * into that of the next level before it gets there. Its frequencies are whole numbers in 512 pixels, so that it runs on from
 * tile to tile.
 */
export const patternShader = {
  vertex: `${areaHead}
uniform float u_whole;      // pixels in a metre at the whole zoom level
uniform vec2 u_corner;      // pixels of the tile's anchor at the whole zoom level, less whole periods
${rowTexel}${lift}${placed}
flat out vec4 v_color;
flat out vec4 v_ink;
flat out vec4 v_form;       // kind and sprite, turn, gap, size
out vec2 v_ground;
void main() {
  int t = int(a_texel);
  v_color = mix(texel(t), texel(t + 1), u_mix) * u_opacity;
  v_form = texel(t + 2);
  v_ink = texel(t + 3) * u_opacity;
  v_ground = a_place * u_whole + u_corner;
  gl_Position = v_color.a > 0.0 || v_ink.a > 0.0 ? placed(u_matrix, a_place) : vec4(2.0, 2.0, 2.0, 1.0);
}`,
  fragment: `#version 300 es
precision highp float;
precision highp int;
flat in vec4 v_color;
flat in vec4 v_ink;
flat in vec4 v_form;
in vec2 v_ground;
uniform sampler2D u_atlas;
uniform float u_grown;      // growth since the whole zoom level, 1 to 2
uniform float u_next;       // share of the next level's pattern
out vec4 o_color;
float hatch(vec2 direction, float gap, float width, float grown, float pixel) {
  vec2 frequency = floor(512.0 * direction / gap + 0.5) / 512.0;
  float period = 1.0 / length(frequency);
  float away = abs(fract(dot(v_ground * (u_grown / grown), frequency)) - 0.5) * period * grown;
  return clamp(0.5 + (width * 0.5 - away) / pixel, 0.0, 1.0);
}
float icons(float sprite, float gap, float size, float stagger, float grown, float pixel) {
  float count = floor(256.0 / gap + 0.5) * 2.0 / 512.0;
  vec2 cell = v_ground * (u_grown / grown) * count;
  cell.x += stagger * 0.5 * mod(floor(cell.y), 2.0);
  vec2 at = (fract(cell) - 0.5) / count * grown * vec2(1.0, -1.0) / (size * 64.0 / 44.0) + 0.5;
  if (at.x < 0.0 || at.y < 0.0 || at.x > 1.0 || at.y > 1.0) return 0.0;
  float field = textureLod(u_atlas, (vec2(mod(sprite, 16.0), floor(sprite / 16.0)) + at) / 16.0, 0.0).a - 0.502;
  return clamp(field / (pixel * 44.0 / size / 20.0) + 0.5, 0.0, 1.0);
}
float pattern(float grown, float pixel) {
  int kind = int(v_form.x + 0.5) & 3;
  if (kind == 3) return icons(floor((v_form.x + 0.5) / 4.0), v_form.z, v_form.w, v_form.y, grown, pixel);
  vec2 d = vec2(sin(v_form.y), cos(v_form.y));
  float cover = hatch(d, v_form.z, v_form.w, grown, pixel);
  return kind == 2 ? max(cover, hatch(vec2(d.y, -d.x), v_form.z, v_form.w, grown, pixel)) : cover;
}
void main() {
  float pixel = max(length(vec2(dFdx(v_ground.x), dFdy(v_ground.x))), length(vec2(dFdx(v_ground.y), dFdy(v_ground.y)))) * u_grown;
  float cover = v_form.x < 0.5 ? 0.0 : mix(pattern(u_grown, pixel), pattern(u_grown * 0.5, pixel), u_next);
  vec4 ink = v_ink * cover;
  o_color = ink + v_color * (1.0 - ink.a);
}`,
};
