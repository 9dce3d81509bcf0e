import {
  FramebufferTexture,
  Mesh,
  OrthographicCamera,
  PlaneGeometry,
  ShaderMaterial,
  Vector2,
  type WebGLRenderer,
} from "three";

/** What two drawings of one canvas differ by, as they are shown: |first − second| × gain. */
export class Apart {
  private readonly size = new Vector2();
  private drawings: FramebufferTexture[] = [];
  private readonly camera = new OrthographicCamera(-1, 1, 1, -1, 0, 1);
  private readonly material = new ShaderMaterial({
    uniforms: { first: { value: null }, second: { value: null }, gain: { value: 1 } },
    vertexShader:
      "varying vec2 at; void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }",
    fragmentShader:
      "varying vec2 at; uniform sampler2D first; uniform sampler2D second; uniform float gain; " +
      "void main() { vec3 apart = abs(texture2D(first, at).rgb - texture2D(second, at).rgb); " +
      "gl_FragColor = vec4(apart * gain, 1.0); }",
    depthTest: false,
    toneMapped: false,
  });
  private readonly sheet = new Mesh(new PlaneGeometry(2, 2), this.material);

  /** `draws` each draw the whole canvas. */
  draw(renderer: WebGLRenderer, draws: [() => void, () => void], gain: number) {
    const size = renderer.getDrawingBufferSize(new Vector2());
    if (!size.equals(this.size)) {
      this.free();
      this.size.copy(size);
      this.drawings = draws.map(() => new FramebufferTexture(size.x, size.y));
    }
    draws.forEach((draw, k) => {
      renderer.clear();
      draw();
      renderer.copyFramebufferToTexture(this.drawings[k]);
    });
    const { first, second, gain: times } = this.material.uniforms;
    [first.value, second.value, times.value] = [...this.drawings, gain];
    renderer.clear();
    renderer.render(this.sheet, this.camera);
  }

  private free() {
    for (const drawing of this.drawings) drawing.dispose();
    this.drawings = [];
  }

  dispose() {
    this.free();
    this.material.dispose();
    this.sheet.geometry.dispose();
  }
}
