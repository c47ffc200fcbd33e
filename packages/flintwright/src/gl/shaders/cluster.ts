import { boxNumber, rowTexel } from './rows.js';

/** Texels of a cluster in the rows: place and measures, colors of core and outline, how many shares, and the shares. */
export const clusterTexels = 16;
/** Shares that the rim of a cluster has room for. */
export const mostShares = clusterTexels - 4;

/**
 * Clusters: a hexagon that stands on a corner, its rim divided by shares, clockwise from the top. All of it is one distance field, so
 * its edges are smooth at every pixel ratio.
 */
export const clusterShader = {
  vertex: `#version 300 es
precision highp float;
precision highp int;
uniform vec2 u_viewport;
${rowTexel}${boxNumber}
out vec2 v_at;              // CSS pixels from the middle, y up
flat out int v_row;
void main() {
  v_row = boxNumber() * ${clusterTexels};
  vec4 box = texel(v_row);  // middle x and y, height in CSS pixels, opacity
  v_at = (boxCorner() * 2.0 - 1.0) * (box.z * 0.5 + 1.0);
  vec2 at = box.xy + vec2(v_at.x, -v_at.y);
  gl_Position = vec4(at.x / u_viewport.x * 2.0 - 1.0, 1.0 - at.y / u_viewport.y * 2.0, 0.0, 1.0);
}`,
  fragment: `#version 300 es
precision highp float;
precision highp int;
in vec2 v_at;
flat in int v_row;
uniform float u_ratio;
${rowTexel}
out vec4 o_color;
const float turn = 6.2831853;
// Distance outside a regular hexagon on a corner, of a radius to its corners that are rounded off.
float hexagon(vec2 p, float radius) {
  float round_ = radius * 0.14;
  float corner = radius - round_ * 2.0 / sqrt(3.0);
  float side = corner * sqrt(3.0) * 0.5;
  // The place is turned into the sector around the side that faces right.
  float sector = floor(atan(p.y, p.x) / (turn / 6.0) + 0.5) * turn / 6.0;
  vec2 q = mat2(cos(sector), -sin(sector), sin(sector), cos(sector)) * p;
  vec2 away = q - vec2(side, clamp(q.y, -corner * 0.5, corner * 0.5));
  return (q.x > side ? length(away) : q.x - side) - round_;
}
void main() {
  vec4 box = texel(v_row);
  vec4 core = texel(v_row + 1);
  vec4 outline = texel(v_row + 2);
  vec4 form = texel(v_row + 3);   // number of shares, width of the rim
  float away = hexagon(v_at, box.z * 0.5);
  if (away > 0.5 / u_ratio) discard;
  float share = fract(atan(v_at.x, v_at.y) / turn);
  int shares = int(form.x);
  vec4 rim = texel(v_row + 4);
  float border = 1e3;             // from where two shares meet, in shares
  float from = 0.0;
  for (int k = 0; k < shares; k++) {
    vec4 piece = texel(v_row + 4 + k);  // color, and where the share ends
    if (share >= from && share < piece.w) rim = piece;
    if (shares > 1) border = min(border, abs(share - from));
    from = piece.w;
  }
  if (shares > 1) border = min(border, 1.0 - share);
  rim.a = 1.0;
  float inRim = clamp(0.5 - (away + 1.0) * u_ratio, 0.0, 1.0);
  float inCore = clamp(0.5 - (away + 1.0 + form.y) * u_ratio, 0.0, 1.0);
  float between = clamp(0.5 - (border * turn * length(v_at) - 0.5) * u_ratio, 0.0, 1.0);
  rim = mix(rim, core, between);
  o_color = mix(outline, mix(rim, core, inCore), inRim) * clamp(0.5 - away * u_ratio, 0.0, 1.0) * box.w;
}`,
};
