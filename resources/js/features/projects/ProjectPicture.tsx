import { useEffect, useRef } from 'react';
import { api } from '../../api/client';
import type { ProjectCard } from '../../api/types';
import { readGeometry } from '../../viewport/blob';
import { SceneItem } from '../../viewport/sceneItem';
import { Viewport } from '../../viewport/Viewport';

/** A still of the newest body, or of the first pass. */
export function ProjectPicture({ project }: { project: ProjectCard }) {
  const host = useRef<HTMLDivElement>(null);
  const picture = project.picture;
  useEffect(() => {
    if (!host.current || !picture) return;
    const view = new Viewport(host.current);
    let live = true;
    void api
      .blob(project.id, picture.blob)
      .then((buffer) => {
        if (!live) return;
        view.add('picture', new SceneItem('picture', 'body', readGeometry(buffer), null, 0xb9ac99));
        view.arrange(new Map([['picture', { transform: picture.transform, visible: true }]]));
      })
      .catch(() => undefined);
    return () => {
      live = false;
      view.dispose();
    };
  }, [project.id, picture]);
  return <div ref={host} className="h-36 bg-base-300 rounded-box grid place-items-center overflow-hidden">{picture ? null : <span className="opacity-70">no passes yet</span>}</div>;
}
