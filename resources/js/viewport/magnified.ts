import * as THREE from 'three';
import type { ScreenPoint } from '../tools/events';

/** A small picture of what lies around a place of the view, drawn anew at the size that it is shown in. */
export class Magnified {
  private target: THREE.WebGLRenderTarget | null = null;

  /**
   * @param view size of the view, CSS pixels
   * @param times how many times larger than in the view
   */
  draw(renderer: THREE.WebGLRenderer, scene: THREE.Scene, lens: THREE.PerspectiveCamera | THREE.OrthographicCamera, view: { width: number; height: number }, at: ScreenPoint, into: HTMLCanvasElement, times: number): void {
    const context = into.getContext('2d');
    const { width, height } = into;
    if (!context) return;
    this.target ??= new THREE.WebGLRenderTarget(width, height, { colorSpace: THREE.SRGBColorSpace, samples: 4 });
    this.target.setSize(width, height);
    lens.setViewOffset(view.width, view.height, at.x - width / times / 2, at.y - height / times / 2, width / times, height / times);
    renderer.setRenderTarget(this.target);
    renderer.clear();
    renderer.render(scene, lens);
    const pixels = new Uint8ClampedArray(4 * width * height);
    renderer.readRenderTargetPixels(this.target, 0, 0, width, height, pixels);
    renderer.setRenderTarget(null);
    lens.clearViewOffset();
    // The rows of a render target begin at the bottom.
    const picture = new ImageData(width, height);
    for (let row = 0; row < height; row++) picture.data.set(pixels.subarray(4 * width * (height - 1 - row), 4 * width * (height - row)), 4 * width * row);
    context.putImageData(picture, 0, 0);
  }

  dispose(): void {
    this.target?.dispose();
  }
}
