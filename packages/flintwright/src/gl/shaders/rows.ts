/** Reads texel `t` of an appearance texture, which is 1024 texels wide and holds bits: of floats, and of whole numbers beside them. */
export const rowTexel = `
uniform highp usampler2D u_rows;
uvec4 bits(int t) { return texelFetch(u_rows, ivec2(t & 1023, t >> 10), 0); }
vec4 texel(int t) { return uintBitsToFloat(bits(t)); }`;

/**
 * Boxes are drawn by number, with nothing handed to the vertices: the shader reads what its box is for out of a texture, and knows its
 * own corner. (One instance a box is what many graphics cards are slowest at.)
 */
export const boxNumber = `
uniform int u_first;        // number of the first box
int boxNumber() { return u_first + (gl_VertexID >> 2); }
vec2 boxCorner() { return vec2(float(gl_VertexID & 1), float((gl_VertexID >> 1) & 1)); }`;

/** Boxes that are for marks. Those lie behind the rows, three numbers each: place and first texel. */
export const markTexel = `${boxNumber}
uvec3 markBits(int i) {
  int at = i * 3;
  int k = at & 3;
  uvec4 a = bits(at >> 2);
  if (k == 0) return a.xyz;
  if (k == 1) return a.yzw;
  uvec4 b = bits((at >> 2) + 1);
  return k == 2 ? uvec3(a.zw, b.x) : uvec3(a.w, b.xy);
}`;

/** How far the ground of a sphere falls away below the plane that touches it at the tile's anchor; nothing on a plane. */
export const lift = `
uniform float u_curve;      // 1 / radius in meters, or 0
float lift(vec2 p) {
  float q = dot(p, p) * u_curve;
  return u_curve == 0.0 ? 0.0 : -q / (1.0 + sqrt(max(0.0, 1.0 - q * u_curve)));
}
vec4 ground(vec2 p) { return vec4(p, lift(p), 1.0); }`;

/**
 * Where a place of the ground stands in clip space. Seen from far out, what lies beyond the horizon of a sphere is cut off by the far
 * plane: the depth is that of the horizon's plane, which is linear, so that lines and areas end exactly there.
 */
export const placed = `
uniform float u_horizon;    // 1 where the sphere has a rim, or 0
uniform vec3 u_eye;         // in radii from the center, along the axes of the tile's frame
vec4 placed(mat4 m, vec2 p) {
  vec4 at = m * ground(p);
  if (u_horizon > 0.0) at.z = at.w - (dot(vec3(p * u_curve, 1.0 + lift(p) * u_curve), u_eye) - 1.0);
  return at;
}`;

/** How far a place of a sphere is within the horizon: 1 in the middle, 0 at the rim and beyond; 1 everywhere on a plane. */
export const hidden = `
uniform vec3 u_eye;         // in radii from the center, along the axes of the tile's frame
float sight(vec2 p) {
  if (u_curve == 0.0) return 1.0;
  return (dot(vec3(p * u_curve, 1.0 + lift(p) * u_curve), u_eye) - 1.0) / max(length(u_eye) - 1.0, 1e-9);
}`;

/**
 * What an atlas of distance fields holds at a place: the color, and how far the body covers the pixel. Where a glyph (emoji) or an icon has
 * colors of its own, the picture holds them beside the field.
 */
export const fieldAt = `  vec4 texel = texture(u_atlas, v_at);
  float field = texel.a - 0.502;
  float own = clamp(max(texel.r, max(texel.g, texel.b)) * 40.0, 0.0, 1.0);
  vec4 color = mix(v_color, vec4(texel.rgb, 1.0) * v_color.a, own);
  float body = clamp(field / v_field.y + 0.5, 0.0, 1.0);`;

/** How vertices of areas begin: their place, the texel of their row, and what all tiles are drawn with. */
export const areaHead = `#version 300 es
precision highp float;
precision highp int;
layout(location=0) in vec2 a_place;
layout(location=1) in uint a_texel;
uniform mat4 u_matrix;
uniform float u_mix;
uniform float u_opacity;`;
