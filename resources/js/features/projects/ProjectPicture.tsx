import { useEffect, useRef, useState } from 'react';
import { api, pictureOf } from '../../api/client';
import type { ProjectCard } from '../../api/types';
import { readGeometry } from '../../viewport/blob';
import { SceneItem } from '../../viewport/sceneItem';
import { Viewport } from '../../viewport/Viewport';
import { InTurn } from './inTurn';

/** All pictures are drawn in one view that stands in no page: a browser keeps some dozen views alive, and a list may hold more projects. */
const pictures = new InTurn<string | null>();
let view: Viewport | null = null;

/** Of a still, pixels: twice what a card shows, for fine screens. */
const WIDTH = 720;
const HEIGHT = 288;

async function draw({ id, picture }: ProjectCard): Promise<string | null> {
  if (!picture) return null;
  const geometry = readGeometry(await api.blob(id, picture.blob));
  view ??= new Viewport(document.createElement('div'));
  view.add('picture', new SceneItem('picture', 'body', geometry, null, 0xb9ac99));
  view.arrange(new Map([['picture', { transform: picture.transform, visible: true }]]));
  try {
    const still = view.still(WIDTH, HEIGHT);
    // The next list has it at once, whoever looks at it.
    if (still) void api.keepPicture(id, picture.blob, still).catch(() => undefined);
    return still;
  } finally {
    view.arrange(new Map());
  }
}

/** A still of the newest body, or of the first pass: a stored one at once, else drawn when it is scrolled to, and stored. */
export function ProjectPicture({ project }: { project: ProjectCard }) {
  const host = useRef<HTMLDivElement>(null);
  const [drawn, setDrawn] = useState<string | null>(null);
  useEffect(() => {
    const element = host.current;
    if (!element || !project.picture) return;
    if (project.picture.isStored) {
      setDrawn(pictureOf(project.id, project.picture.blob));
      return;
    }
    let live = true;
    const scrolledTo = new IntersectionObserver((entries) => {
      if (!entries.some((entry) => entry.isIntersecting)) return;
      scrolledTo.disconnect();
      pictures
        .of(project.picture?.blob ?? '', () => draw(project))
        .then((picture) => live && setDrawn(picture))
        .catch(() => undefined);
    });
    scrolledTo.observe(element);
    return () => {
      live = false;
      scrolledTo.disconnect();
    };
  }, [project]);
  return (
    <div ref={host} className="h-36 bg-base-300 rounded-box grid place-items-center overflow-hidden">
      {drawn ? <img src={drawn} alt="" className="size-full object-contain" /> : project.picture ? null : <span className="opacity-70">no passes yet</span>}
    </div>
  );
}
