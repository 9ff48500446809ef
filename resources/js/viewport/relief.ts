import * as THREE from 'three';

/** Neighbours of a pixel that its depth is compared with, in pixels. */
const REACH = 1.5;

/** How dark a step of one pixel's size makes a pixel, summed over its eight neighbours. */
const STRENGTH = 0.12;

/** Steps deeper than this many pixels count no more: the edge of a part is a line, not a black band. */
const DEEPEST = 6;

const VERTEX = 'varying vec2 vUv; void main() { vUv = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }';

const FRAGMENT = `
uniform sampler2D colour;
uniform sampler2D depths;
uniform vec2 pixel;
uniform float near;
uniform float far;
uniform bool parallel;
/** scene millimetres that a pixel covers: at distance 1, or of parallel rays everywhere */
uniform float mmPerPixel;
varying vec2 vUv;

float away(vec2 at) {
  float d = texture2D(depths, at).x;
  return parallel ? near + d * (far - near) : near * far / (far - d * (far - near));
}

void main() {
  vec4 own = texture2D(colour, vUv);
  gl_FragColor = own;
  // Where nothing is drawn there is no surface.
  if (texture2D(depths, vUv).x < 1.0) {
    float d = away(vUv);
    float size = mmPerPixel * (parallel ? 1.0 : d) * ${REACH.toFixed(2)};
    float sum = 0.0;
    for (int k = 0; k < 8; k++) {
      float a = 0.785398 * float(k);
      sum += clamp((d - away(vUv + ${REACH.toFixed(2)} * pixel * vec2(cos(a), sin(a)))) / size, 0.0, ${DEEPEST.toFixed(1)});
    }
    gl_FragColor.rgb *= exp(-${STRENGTH.toFixed(3)} * sum);
  }
  #include <colorspace_fragment>
}`;

/**
 * Shades what is drawn by its depth, so that points without normals read as a surface and their noise is seen under whatever colour they have: a pixel is darker the more its neighbours lie before
 * it. After Boucheny 2009 (eye-dome lighting), with depths measured in pixels, so that the picture is the same at any zoom.
 */
export class Relief {
  private target: THREE.WebGLRenderTarget | null = null;
  private readonly scene = new THREE.Scene();
  private readonly camera = new THREE.OrthographicCamera();
  private readonly material = new THREE.ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    uniforms: { colour: { value: null }, depths: { value: null }, pixel: { value: new THREE.Vector2() }, near: { value: 1 }, far: { value: 2 }, parallel: { value: false }, mmPerPixel: { value: 1 } },
    depthTest: false,
    depthWrite: false,
    transparent: true,
    premultipliedAlpha: true,
    blending: THREE.NoBlending,
  });

  constructor() {
    const quad = new THREE.Mesh(new THREE.PlaneGeometry(2, 2), this.material);
    quad.frustumCulled = false;
    this.scene.add(quad);
  }

  render(renderer: THREE.WebGLRenderer, scene: THREE.Scene, lens: THREE.PerspectiveCamera | THREE.OrthographicCamera): void {
    const size = renderer.getDrawingBufferSize(new THREE.Vector2());
    this.target ??= new THREE.WebGLRenderTarget(size.x, size.y, { colorSpace: THREE.SRGBColorSpace, depthTexture: new THREE.DepthTexture(size.x, size.y, THREE.UnsignedIntType) });
    if (this.target.width !== size.x || this.target.height !== size.y) this.target.setSize(size.x, size.y);
    const before = renderer.getRenderTarget();
    renderer.setRenderTarget(this.target);
    renderer.clear();
    renderer.render(scene, lens);
    renderer.setRenderTarget(before);
    const isParallel = lens instanceof THREE.OrthographicCamera;
    const u = this.material.uniforms;
    u.colour!.value = this.target.texture;
    u.depths!.value = this.target.depthTexture;
    u.pixel!.value.set(1 / size.x, 1 / size.y);
    u.near!.value = lens.near;
    u.far!.value = lens.far;
    u.parallel!.value = isParallel;
    u.mmPerPixel!.value = (isParallel ? lens.top - lens.bottom : 2 * Math.tan(THREE.MathUtils.degToRad(lens.fov / 2))) / size.y;
    renderer.render(this.scene, this.camera);
  }

  dispose(): void {
    this.target?.dispose();
    this.material.dispose();
  }
}
