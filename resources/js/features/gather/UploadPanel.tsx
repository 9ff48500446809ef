import { FileUp } from 'lucide-react';
import { useRef, useState } from 'react';
import { droppedFiles } from './droppedFiles';
import { useUploads } from './Uploads';

/** Bring in passes: many files at once, going on after a lost connection. */
export function UploadPanel() {
  const { send } = useUploads();
  const input = useRef<HTMLInputElement>(null);
  const [unit, setUnit] = useState('');
  const [over, setOver] = useState(false);
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
        void droppedFiles(e.dataTransfer).then((files) => send(files, unit));
      }}
    >
      <input ref={input} type="file" multiple hidden data-upload accept=".emberstone,.ply,.stl,.obj,.off,.xyz,.txt,.csv,.asc,.pts,.ptx,.e57,.3mf,.glb,.gltf,.gz,.zip" onChange={(e) => void send([...(e.target.files ?? [])], unit)} />
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
    </section>
  );
}
