/** A picture on a tile of the ground. */
export const imageShader = {
  vertex: `#version 300 es
layout(location=0) in vec4 a_clip;
layout(location=1) in vec2 a_at;
out vec2 v_at;
void main() {
  v_at = a_at;
  gl_Position = a_clip;
}`,
  fragment: `#version 300 es
precision highp float;
in vec2 v_at;
uniform sampler2D u_picture;
uniform float u_opacity;
uniform float u_saturation;
uniform float u_contrast;
uniform vec4 u_tint;        // color, and its share
out vec4 o_color;
void main() {
  vec4 texel = texture(u_picture, v_at);
  vec3 color = texel.a > 0.0 ? texel.rgb / texel.a : vec3(0.0);
  // Luminance by Rec. ITU-R BT.709.
  float gray = dot(color, vec3(0.2126, 0.7152, 0.0722));
  color = mix(vec3(gray), color, u_saturation);
  color = (color - 0.5) * u_contrast + 0.5;
  // The tint stands at middle gray, black and white stay what they are.
  vec3 tinted = gray < 0.5 ? u_tint.rgb * gray * 2.0 : mix(u_tint.rgb, vec3(1.0), gray * 2.0 - 1.0);
  color = mix(color, tinted, u_tint.a);
  o_color = vec4(clamp(color, 0.0, 1.0), 1.0) * texel.a * u_opacity;
}`,
};
