import { Fault } from '@flintwright/core';
import { countLive } from '../base/live-counts.js';

/** Texels across an appearance texture; the shaders know it too. */
const rowWidth = 1024;

/** A compiled program and the places of its uniforms. */
export interface Program {
  readonly program: WebGLProgram;
  at(name: string): WebGLUniformLocation | null;
  /** Begins to compile it, which goes on beside everything else. */
  start(): void;
  /** Sets a uniform number of the program in use, where it is not so already. */
  float(name: string, value: number): void;
  /** As {@link float}, for a whole number or the unit of a texture. */
  int(name: string, value: number): void;
  /** As {@link float}, for two numbers. */
  pair(name: string, x: number, y: number): void;
  remove(): void;
}

interface Shaders {
  readonly vertex: string;
  readonly fragment: string;
}

/** A uniform of a program: its place, and the number or two that it was last set to. */
interface Uniform {
  readonly place: WebGLUniformLocation | null;
  x: number;
  y: number;
}

/** A program that is being compiled. */
interface StartedProgram {
  readonly program: WebGLProgram;
  readonly shaders: readonly WebGLShader[];
}

/** The WebGL2 context of one map, with everything made through it counted. */
export class Device {
  readonly gl: WebGL2RenderingContext;

  /** @throws Fault `gl.missing` when the browser gives no WebGL2 */
  constructor(canvas: HTMLCanvasElement) {
    const gl = canvas.getContext('webgl2', {
      // A sheet without a background lets the page show through.
      alpha: true,
      antialias: true,
      stencil: true,
      depth: true,
      premultipliedAlpha: true,
      preserveDrawingBuffer: false,
    });
    if (!gl)
      throw new Fault(
        'gl.missing',
        'this browser cannot create a WebGL2 context',
        'Enable hardware acceleration, or use a browser from the last five years.',
      );
    this.gl = gl;
    gl.enable(gl.BLEND);
    gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
  }

  /** A program that is compiled when it is first used. */
  program(shaders: Shaders): Program {
    const { gl } = this;
    let started: StartedProgram | undefined;
    let made: WebGLProgram | undefined;
    const own = () => (made ??= this.finish((started ??= this.compile(shaders))));
    // A program keeps its uniforms, whatever is drawn by others meanwhile.
    const uniforms = new Map<string, Uniform>();
    const of = (name: string) => {
      let one = uniforms.get(name);
      if (!one) uniforms.set(name, (one = { place: gl.getUniformLocation(own(), name), x: NaN, y: NaN }));
      return one;
    };
    return {
      get program() {
        return own();
      },
      at: (name) => of(name).place,
      start: () => {
        started ??= this.compile(shaders);
      },
      remove() {
        if (!started) return;
        gl.deleteProgram(started.program);
        countLive('programs', -1);
        started = made = undefined;
      },
      float(name, value) {
        const one = of(name);
        if (one.x !== value) gl.uniform1f(one.place, (one.x = value));
      },
      int(name, value) {
        const one = of(name);
        if (one.x !== value) gl.uniform1i(one.place, (one.x = value));
      },
      pair(name, x, y) {
        const one = of(name);
        if (one.x !== x || one.y !== y) gl.uniform2f(one.place, (one.x = x), (one.y = y));
      },
    };
  }

  /** Has a program compiled; nobody waits for it. */
  private compile({ vertex, fragment }: Shaders): StartedProgram {
    const { gl } = this;
    const program = gl.createProgram();
    const shaders = (
      [
        [gl.VERTEX_SHADER, vertex],
        [gl.FRAGMENT_SHADER, fragment],
      ] as const
    ).map(([type, source]) => {
      const shader = gl.createShader(type)!;
      gl.shaderSource(shader, source);
      gl.compileShader(shader);
      gl.attachShader(program, shader);
      return shader;
    });
    gl.linkProgram(program);
    countLive('programs', 1);
    return { program, shaders };
  }

  /** Waits for a program, and sees whether it is sound. */
  private finish({ program, shaders }: StartedProgram): WebGLProgram {
    const { gl } = this;
    if (!gl.getProgramParameter(program, gl.LINK_STATUS) && !gl.isContextLost()) {
      const broken = shaders.find((shader) => !gl.getShaderParameter(shader, gl.COMPILE_STATUS));
      if (broken)
        throw new Fault(
          'gl.shader',
          `a shader does not compile: ${gl.getShaderInfoLog(broken)}`,
          'Please report this with the name of the browser and graphics card.',
        );
      throw new Fault(
        'gl.program',
        `a program does not link: ${gl.getProgramInfoLog(program)}`,
        'Please report this with the name of the browser and graphics card.',
      );
    }
    for (const shader of shaders) gl.deleteShader(shader);
    return program;
  }

  dropProgram(program: Program): void {
    program.remove();
  }

  buffer(target: number, data: AllowSharedBufferSource | null, usage: number): WebGLBuffer {
    const buffer = this.gl.createBuffer();
    countLive('buffers', 1);
    this.gl.bindBuffer(target, buffer);
    if (data) this.gl.bufferData(target, data, usage);
    return buffer;
  }

  dropBuffer(buffer: WebGLBuffer): void {
    this.gl.deleteBuffer(buffer);
    countLive('buffers', -1);
  }

  vertexArray(): WebGLVertexArrayObject {
    countLive('vertexArrays', 1);
    const array = this.gl.createVertexArray();
    this.gl.bindVertexArray(array);
    return array;
  }

  dropVertexArray(array: WebGLVertexArrayObject): void {
    this.gl.deleteVertexArray(array);
    countLive('vertexArrays', -1);
  }

  texture(): WebGLTexture {
    const { gl } = this;
    const texture = gl.createTexture();
    countLive('textures', 1);
    gl.bindTexture(gl.TEXTURE_2D, texture);
    return texture;
  }

  /** A texture of its own size, stretched smoothly and held at its edges. */
  smoothTexture(format: number, width: number, height: number): WebGLTexture {
    const { gl } = this;
    const texture = this.texture();
    gl.texStorage2D(gl.TEXTURE_2D, 1, format, width, height);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.LINEAR);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE);
    return texture;
  }

  /** An appearance texture with room for so many texels; see {@link writeRows}. */
  rows(texels: number): WebGLTexture {
    const { gl } = this;
    const texture = this.texture();
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
    gl.texStorage2D(gl.TEXTURE_2D, 1, gl.RGBA32UI, rowWidth, Math.max(1, Math.ceil(texels / rowWidth)));
    return texture;
  }

  /**
   * Writes `texels` texels of a list, from its texel `from` on, into an appearance texture, from its texel `into` on. Whole texture lines
   * go up together.
   */
  writeRows(
    texture: WebGLTexture,
    list: Float32Array | Uint32Array,
    from: number,
    texels: number,
    into: number = from,
  ): void {
    const { gl } = this;
    if (!texels) return;
    const bits = new Uint32Array(list.buffer, list.byteOffset, list.length);
    gl.bindTexture(gl.TEXTURE_2D, texture);
    let at = into;
    const end = into + texels;
    while (at < end) {
      const x = at % rowWidth;
      const y = (at - x) / rowWidth;
      const lines = x === 0 ? Math.floor((end - at) / rowWidth) : 0;
      const width = lines ? rowWidth : Math.min(rowWidth - x, end - at);
      const height = Math.max(1, lines);
      const start = (from + at - into) * 4;
      gl.texSubImage2D(gl.TEXTURE_2D, 0, x, y, width, height, gl.RGBA_INTEGER, gl.UNSIGNED_INT, bits, start);
      at += width * height;
    }
  }

  /** Binds a texture to a unit; unit 0 is active afterwards. */
  bind(unit: number, texture: WebGLTexture): void {
    const { gl } = this;
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(gl.TEXTURE_2D, texture);
    if (unit) gl.activeTexture(gl.TEXTURE0);
  }

  framebuffer(texture: WebGLTexture): WebGLFramebuffer {
    const { gl } = this;
    const buffer = gl.createFramebuffer();
    countLive('buffers', 1);
    gl.bindFramebuffer(gl.FRAMEBUFFER, buffer);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, texture, 0);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    return buffer;
  }

  dropFramebuffer(buffer: WebGLFramebuffer): void {
    this.gl.deleteFramebuffer(buffer);
    countLive('buffers', -1);
  }

  dropTexture(texture: WebGLTexture): void {
    this.gl.deleteTexture(texture);
    countLive('textures', -1);
  }
}
