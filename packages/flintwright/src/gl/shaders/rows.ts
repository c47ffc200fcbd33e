/** Reads texel `t` of an appearance texture that is 1024 texels wide. */
export const rowTexel = `
uniform highp sampler2D u_rows;
vec4 texel(int t) { return texelFetch(u_rows, ivec2(t & 1023, t >> 10), 0); }`;

/** How far the ground of a sphere falls away below the plane that touches it at the tile's anchor; nothing on a plane. */
export const lift = `
uniform float u_curve;      // 1 / radius in metres, or 0
float lift(vec2 p) {
  float q = dot(p, p) * u_curve;
  return u_curve == 0.0 ? 0.0 : -q / (1.0 + sqrt(max(0.0, 1.0 - q * u_curve)));
}
vec4 ground(vec2 p) { return vec4(p, lift(p), 1.0); }`;

/** Whether a place of a sphere is out of sight; never on a plane. */
export const hidden = `
uniform vec3 u_eye;         // in radii from the centre, along the axes of the tile's frame
bool hidden(vec2 p) {
  return u_curve != 0.0 && dot(vec3(p * u_curve, 1.0 + lift(p) * u_curve), u_eye) < 1.0;
}`;
