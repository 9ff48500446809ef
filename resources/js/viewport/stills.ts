import * as THREE from 'three';
import type { ViewCamera } from './ViewCamera';

/** Pictures of a box as each camera sees it as a whole, as data URLs; the renderer stays at their size, which is in pixels. */
export function stills(renderer: THREE.WebGLRenderer, cameras: readonly ViewCamera[], box: THREE.Box3, width: number, height: number, render: (camera: ViewCamera) => void): string[] {
  const ratio = renderer.getPixelRatio();
  renderer.setPixelRatio(1);
  renderer.setSize(width, height, false);
  const pictures = cameras.map((camera) => {
    camera.resize(width, height);
    camera.fit(box);
    camera.update(box.getSize(new THREE.Vector3()).length());
    render(camera);
    return renderer.domElement.toDataURL();
  });
  renderer.setPixelRatio(ratio);
  return pictures;
}
