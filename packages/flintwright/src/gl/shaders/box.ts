import { boxNumber, fieldAt, rowTexel } from './rows.js';

/** Boxes of a distance-field atlas in screen space: labels, and the parts of clusters. */
const boxVertex = `#version 300 es
precision highp float;
precision highp int;
uniform vec2 u_viewport;
uniform sampler2D u_atlas;
${rowTexel}${boxNumber}
out vec2 v_at;
flat out vec4 v_color;
flat out vec4 v_halo;
flat out vec4 v_field;
void main() {
  int row = boxNumber() * 5;
  vec4 box = texel(row);        // middle x, y, half width, half height in CSS pixels
  vec4 uv = texel(row + 1);     // left, top, right, bottom as shares of the atlas's width
  v_color = texel(row + 2);
  v_halo = texel(row + 3);
  v_field = texel(row + 4);     // halo width and one device pixel in field units, turn, softness
  vec2 corner = boxCorner();
  vec2 off = (corner * 2.0 - 1.0) * box.zw;
  float c = cos(v_field.z);
  float s = sin(v_field.z);
  vec2 at = box.xy + vec2(off.x * c - off.y * s, off.x * s + off.y * c);
  gl_Position = vec4(at.x / u_viewport.x * 2.0 - 1.0, 1.0 - at.y / u_viewport.y * 2.0, 0.0, 1.0);
  vec2 side = vec2(textureSize(u_atlas, 0));
  v_at = mix(uv.xy, uv.zw, corner) * vec2(1.0, side.x / side.y);
}`;

/** Boxes of the sprite atlas that stay as they are and are only moved: all but where they stand lies in the rows. */
const shardVertex = `#version 300 es
precision highp float;
precision highp int;
layout(location=0) in vec4 a_place;   // x, y in CSS pixels, first texel of the box, share of its size
uniform vec2 u_viewport;
uniform float u_ratio;
${rowTexel}
out vec2 v_at;
flat out vec4 v_color;
flat out vec4 v_halo;
flat out vec4 v_field;
void main() {
  int row = int(a_place.z);
  float scale = a_place.w;
  vec4 box = texel(row);
  vec4 uv = texel(row + 1);
  vec4 field = texel(row + 4);
  vec2 corner = vec2(float(gl_VertexID & 1), float(gl_VertexID >> 1));
  // Middles stand on whole device pixels, which keeps edges crisp.
  vec2 middle = floor((a_place.xy + box.xy * scale) * u_ratio + 0.5) / u_ratio;
  vec2 at = middle + (corner * 2.0 - 1.0) * box.zw * scale;
  gl_Position = vec4(at.x / u_viewport.x * 2.0 - 1.0, 1.0 - at.y / u_viewport.y * 2.0, 0.0, 1.0);
  v_at = mix(uv.xy, uv.zw, corner);
  v_color = texel(row + 2);
  v_halo = texel(row + 3);
  v_field = vec4(field.x / scale, field.y / scale / u_ratio, 0.0, 0.0);
}`;

const boxFragment = `#version 300 es
precision highp float;
in vec2 v_at;
flat in vec4 v_color;
flat in vec4 v_halo;
flat in vec4 v_field;
uniform sampler2D u_atlas;
out vec4 o_color;
void main() {
${fieldAt}
  float whole = v_field.x > 0.0 ? clamp((field + v_field.x) / (v_field.y * 1.4) + 0.5, 0.0, 1.0) : 0.0;
  o_color = color * body + v_halo * whole * (1.0 - body);
  if (o_color.a <= 0.0) discard;
}`;

/** Boxes from the sprite atlas and from the text atlas, whose texels hold the field and the colors of what brings its own. */
export const boxShader = { vertex: boxVertex, fragment: boxFragment };

/** Markers. */
export const shardShader = { vertex: shardVertex, fragment: boxFragment };
