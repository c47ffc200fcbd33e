/** Reads texel `t` of an appearance texture that is 1024 texels wide. */
export const rowTexel = `
uniform highp sampler2D u_rows;
vec4 texel(int t) { return texelFetch(u_rows, ivec2(t & 1023, t >> 10), 0); }`;
