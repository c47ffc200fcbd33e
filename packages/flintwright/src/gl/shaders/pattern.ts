import { areaHead, lift, placed, rowTexel } from './rows.js';

/** Numbers a pattern by its look, 1 to 255, the same in every tile. */
const numbered = `
float numbered() {
  float look = dot(v_form, vec4(0.1371, 0.7177, 0.3237, 0.9119)) + dot(v_ink, vec4(3.317, 5.179, 7.733, 1.193));
  return 1.0 + floor(fract(look) * 254.0);
}`;

/** What the pixels of both programs are given. */
const fragmentHead = `#version 300 es
precision highp float;
precision highp int;
flat in vec4 v_color;
flat in vec4 v_ink;
flat in vec4 v_form;
in vec2 v_ground;
out vec4 o_color;
${numbered}`;

/**
 * Fills with a hatch or icons over them. The pattern lies on the ground, grows with it between whole zoom levels, and is mixed
 * into that of the next level before it gets there. Its frequencies are whole numbers in 512 pixels, so that it runs on from
 * tile to tile.
 */
export const patternShader = {
  vertex: `${areaHead}
uniform float u_whole;      // pixels in a meter at the whole zoom level
uniform vec2 u_corner;      // pixels of the tile's anchor at the whole zoom level, less whole periods
${rowTexel}${lift}${placed}
flat out vec4 v_color;
flat out vec4 v_ink;
flat out vec4 v_form;       // kind and sprite, turn (of icons 1 where staggered, 2 more where only whole ones are drawn), gap, size
out vec2 v_ground;
void main() {
  int t = int(a_texel);
  v_color = mix(texel(t), texel(t + 1), u_mix) * u_opacity;
  v_form = texel(t + 2);
  v_ink = texel(t + 3) * u_opacity;
  v_ground = a_place * u_whole + u_corner;
  gl_Position = v_color.a > 0.0 || v_ink.a > 0.0 ? placed(u_matrix, a_place) : vec4(2.0, 2.0, 2.0, 1.0);
}`,
  fragment: `${fragmentHead}
uniform sampler2D u_atlas;
uniform sampler2D u_edges;  // the number of the pattern that covers each pixel
uniform mat4 u_matrix;
uniform float u_whole;
uniform vec2 u_corner;
uniform float u_grown;      // growth since the whole zoom level, 1 to 2
uniform float u_next;       // share of the next level's pattern
${lift}
float hatch(vec2 direction, float gap, float width, float grown, float pixel) {
  vec2 frequency = floor(512.0 * direction / gap + 0.5) / 512.0;
  float period = 1.0 / length(frequency);
  float away = abs(fract(dot(v_ground * (u_grown / grown), frequency)) - 0.5) * period * grown;
  return clamp(0.5 + (width * 0.5 - away) / pixel, 0.0, 1.0);
}
// Whether an edge cuts a symbol: whether another pattern, or none, covers a place of its rim. What lies beyond the screen is not known.
bool isCut(vec2 middle, float reach) {
  ivec2 size = textureSize(u_edges, 0);
  float own = numbered();
  for (int k = 0; k < 16; k++) {
    float side = float(k & 3) * 0.5 - 1.0;
    vec2 rim = k < 4 ? vec2(side, -1.0) : k < 8 ? vec2(1.0, side) : k < 12 ? vec2(-side, 1.0) : vec2(-1.0, -side);
    vec4 at = u_matrix * ground((middle + rim * reach - u_corner) / u_whole);
    ivec2 pixel = ivec2(floor((at.xy / at.w * 0.5 + 0.5) * vec2(size)));
    if (any(lessThan(pixel, ivec2(0))) || any(greaterThanEqual(pixel, size))) continue;
    if (abs(texelFetch(u_edges, pixel, 0).r * 255.0 - own) > 0.5) return true;
  }
  return false;
}
float icons(float sprite, float gap, float size, float form, float grown, float pixel) {
  float count = floor(256.0 / gap + 0.5) * 2.0 / 512.0;
  vec2 cell = v_ground * (u_grown / grown) * count;
  float aside = mod(form, 2.0) * 0.5 * mod(floor(cell.y), 2.0);
  cell.x += aside;
  vec2 at = (fract(cell) - 0.5) / count * grown * vec2(1.0, -1.0) / (size * 64.0 / 44.0) + 0.5;
  if (at.x < 0.0 || at.y < 0.0 || at.x > 1.0 || at.y > 1.0) return 0.0;
  if (form > 1.5 && isCut((floor(cell) + 0.5 - vec2(aside, 0.0)) / count * grown / u_grown, size * 0.5 / u_grown)) return 0.0;
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

/** Writes the number of the pattern that covers each pixel. */
export const patternEdgeShader = {
  vertex: patternShader.vertex,
  fragment: `${fragmentHead}
void main() {
  o_color = vec4(numbered() / 255.0, 0.0, 0.0, 1.0);
}`,
};
