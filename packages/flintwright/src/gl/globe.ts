import type { Camera, Rgba } from '@flintwright/core/internal';
import type { Device, Program } from './device.js';
import { globeShader } from './shaders/index.js';

/** Draws the sphere that a globe's tiles lie on. */
export class Globe {
  private readonly program: Program;
  private readonly empty: WebGLVertexArrayObject;

  constructor(private readonly device: Device) {
    this.program = device.program(globeShader);
    this.empty = device.vertexArray();
    device.gl.bindVertexArray(null);
  }

  draw(camera: Camera, color: Rgba, sky: Rgba, haze: Rgba): void {
    const { gl } = this.device;
    const { at, program } = this.program;
    const { view, size, distance, metresPerPixel, surface } = camera;
    const radius = surface.radius / metresPerPixel;
    const tilt = (view.tilt * Math.PI) / 180;
    // From the middle of the screen the center lies straight down, `radius` away; the axes are those of the screen.
    const eye = [0, Math.sin(tilt), Math.cos(tilt)].map((v, k) => v + (k === 2 ? distance / radius : 0));
    const d = distance / radius;
    gl.useProgram(program);
    gl.bindVertexArray(this.empty);
    gl.disable(gl.STENCIL_TEST);
    gl.enable(gl.DEPTH_TEST);
    gl.depthFunc(gl.ALWAYS);
    gl.depthMask(true);
    gl.uniform2f(at('u_half'), size.width / 2, size.height / 2);
    gl.uniform3f(at('u_eye'), eye[0], eye[1], eye[2]);
    gl.uniform1f(at('u_height'), d * d + 2 * d * Math.cos(tilt));
    gl.uniform1f(at('u_distance'), distance);
    gl.uniform1f(at('u_radius'), radius);
    gl.uniform2f(at('u_planes'), camera.near, camera.farthest);
    gl.uniform4f(at('u_color'), ...color);
    gl.uniform4f(at('u_sky'), ...sky);
    gl.uniform4f(at('u_haze'), ...haze);
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);
    gl.depthFunc(gl.LEQUAL);
    gl.depthMask(false);
  }

  remove(): void {
    this.device.dropProgram(this.program);
    this.device.dropVertexArray(this.empty);
  }
}
