import { FileUp } from 'lucide-react';
import { useRef, useState } from 'react';
import { toast } from 'sonner';
import { ColumnsDialog, type TextFile } from './ColumnsDialog';
import { droppedFiles } from './droppedFiles';
import { sendFile } from './sendFile';
import { api } from '../../api/client';
import { useWorkspace } from '../../state/context';

interface Sending {
  name: string;
  share: number;
}

/** Bring in passes: many files at once, going on after a lost connection. */
export function UploadPanel() {
  const { projectId, run } = useWorkspace();
  const input = useRef<HTMLInputElement>(null);
  const [unit, setUnit] = useState('');
  const [sending, setSending] = useState<Sending[]>([]);
  const [over, setOver] = useState(false);
  const [asking, setAsking] = useState<{ uploads: string[]; texts: TextFile[] } | null>(null);

  const sendOne = (file: File) => sendFile(projectId, file, (share) => setSending((all) => all.map((s) => (s.name === file.name ? { ...s, share } : s))));

  const send = async (files: File[]) => {
    if (files.length === 0) return;
    setSending(files.map((f) => ({ name: f.name, share: 0 })));
    const uploads: string[] = [];
    const names: Record<string, string> = {};
    for (const file of files) {
      try {
        const upload = await sendOne(file);
        uploads.push(upload);
        names[upload] = file.name;
      } catch (problem) {
        toast.error((problem as Error).message);
      }
    }
    setSending([]);
    if (uploads.length === 0) return;
    // What the columns of a text file mean is asked before it is read.
    const texts: TextFile[] = [];
    for (const upload of uploads) {
      const look = await api.columns(projectId, upload).catch(() => undefined);
      if (look) texts.push({ upload, name: names[upload] ?? '', look });
    }
    if (texts.length > 0) setAsking({ uploads, texts });
    else bringIn(uploads);
  };
  const bringIn = (uploads: string[], columns: Record<string, string[]> = {}) => {
    setAsking(null);
    if (uploads.length > 0) run(() => api.addStep(projectId, 'import', { uploads, ...(unit === '' ? {} : { unit }), ...(Object.keys(columns).length === 0 ? {} : { columns }) }));
  };

  return (
    <section
      aria-label="Bring in passes"
      className={`mb-2 rounded-box border border-dashed p-3 ${over ? 'border-primary bg-primary/10' : 'border-base-content/40'}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        void droppedFiles(e.dataTransfer).then(send);
      }}
    >
      {asking ? <ColumnsDialog files={asking.texts} onDone={(columns) => bringIn(asking.uploads, columns)} onCancel={() => bringIn(asking.uploads.filter((u) => !asking.texts.some((t) => t.upload === u)))} /> : null}
      <input ref={input} type="file" multiple hidden data-upload accept=".emberstone,.ply,.stl,.obj,.off,.xyz,.txt,.csv,.asc,.pts,.ptx,.e57,.3mf,.glb,.gltf,.gz,.zip" onChange={(e) => void send([...(e.target.files ?? [])])} />
      <button type="button" className="btn btn-sm btn-primary w-full" onClick={() => input.current?.click()}>
        <FileUp size={15} aria-hidden /> Bring in passes
      </button>
      <p className="mt-2 opacity-80">or drop files or a folder here: PLY, STL, OBJ, E57, PTX, PTS, 3MF, GLB, OFF or text, also in a zip or gz.</p>
      <label className="mt-2 flex items-center gap-2">
        <span className="flex-1">Unit, where a file does not say</span>
        <select className="select select-sm w-20" value={unit} onChange={(e) => setUnit(e.target.value)}>
          <option value="">guess</option>
          {['mm', 'cm', 'm', 'in', 'ft'].map((u) => (
            <option key={u}>{u}</option>
          ))}
        </select>
      </label>
      {sending.map((s) => (
        <div key={s.name} className="mt-2">
          <p className="flex">
            <span className="flex-1 truncate">{s.name}</span> {Math.round(100 * s.share)} %
          </p>
          <progress className="progress progress-primary h-1" value={s.share} max={1} aria-label={`Upload of ${s.name}`} />
        </div>
      ))}
    </section>
  );
}
