import { count } from '../ui/format';

interface Selected {
  target: string;
  count: number;
}

/** "463 points of Pass 1 selected", "68 k points of 8 passes selected", "1.2 k faces and 40 points of 3 things selected". */
export function selectedInWords(selection: readonly Selected[], items: readonly { id: string; name: string; kind?: string }[]): string {
  const faces = (s: Selected) => items.find((i) => i.id === s.target)?.kind === 'mesh';
  const sum = (of: readonly Selected[]) => of.reduce((n, s) => n + s.count, 0);
  const [ofFaces, ofPoints] = [sum(selection.filter(faces)), sum(selection.filter((s) => !faces(s)))];
  const words = [ofFaces > 0 ? `${count(ofFaces)} ${ofFaces === 1 ? 'face' : 'faces'}` : '', ofPoints > 0 ? `${count(ofPoints)} ${ofPoints === 1 ? 'point' : 'points'}` : ''].filter(Boolean).join(' and ');
  const [only] = selection;
  const kinds = new Set(selection.map((s) => items.find((i) => i.id === s.target)).map((item) => (item ? (item.kind ? 'bodies' : 'passes') : 'things')));
  return `${words} of ${selection.length === 1 ? (items.find((i) => i.id === only?.target)?.name ?? 'one thing') : `${selection.length} ${kinds.size === 1 ? [...kinds][0] : 'things'}`} selected`;
}
