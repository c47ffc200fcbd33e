/** The ground of a sphere by itself: its disc with a soft rim, a thin haze round it, and its depth, which hides what lies behind. */
export const globeShader = {
  vertex: `#version 300 es
precision highp float;
uniform vec2 u_half;        // half the size of the screen in CSS pixels
out vec2 v_pixel;
void main() {
  vec2 corner = vec2(float(gl_VertexID & 1), float(gl_VertexID >> 1)) * 2.0 - 1.0;
  v_pixel = corner * u_half;
  gl_Position = vec4(corner, 0.0, 1.0);
}`,
  fragment: `#version 300 es
precision highp float;
in vec2 v_pixel;
uniform vec3 u_eye;         // in radii from the center; axes: right, up on the screen, towards the eye
uniform float u_height;     // |eye|² − 1
uniform float u_distance;   // of the eye from the middle of the screen, CSS pixels
uniform float u_radius;     // CSS pixels
uniform vec2 u_planes;      // near and far, CSS pixels
uniform vec4 u_color;
uniform vec4 u_sky;
uniform vec4 u_haze;
out vec4 o_color;
void main() {
  vec3 ray = vec3(v_pixel, -u_distance);
  float a = dot(ray, ray);
  float b = dot(ray, u_eye);
  float reach = sqrt(max(0.0, u_height + 1.0 - b * b / a));
  float pixel = max(fwidth(reach), 1e-7);
  float disc = b < 0.0 ? clamp(0.5 + (1.0 - reach) / pixel, 0.0, 1.0) : 0.0;
  float away = max(0.0, reach - 1.0) / pixel;
  vec4 around = mix(u_sky, u_haze, b < 0.0 ? 0.55 * exp(-away / 14.0) : 0.0);
  o_color = mix(around, u_color, disc);
  gl_FragDepth = 1.0;
  // A sphere two pixels smaller gives the depth, so that what lies on the ground is before it and what lies beyond is behind.
  float inner = 1.0 - 2.0 / u_radius;
  float root = b * b - a * (u_height + 1.0 - inner * inner);
  if (root > 0.0 && b < 0.0) {
    float t = (-b - sqrt(root)) / a;
    float z = t * u_distance * u_radius;
    gl_FragDepth = clamp(((u_planes.y + u_planes.x) / (u_planes.y - u_planes.x) - 2.0 * u_planes.x * u_planes.y / ((u_planes.y - u_planes.x) * z)) * 0.5 + 0.5, 0.0, 1.0);
  }
}`,
};
