import { FolderOpen } from 'lucide-react';
import { useRef, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client';
import { sendFile } from '../gather/sendFile';

/** A project that was saved to a file, here or on another installation, as a project of its own. */
export function OpenProjectFile() {
  const input = useRef<HTMLInputElement>(null);
  const [sent, setSent] = useState<number | null>(null);
  const open = async (file: File | undefined) => {
    if (!file) return;
    setSent(0);
    try {
      const { id } = await api.createProject({ name: file.name.replace(/\.emberstone$/i, '').slice(0, 120) || 'Opened project', brief: {} });
      const upload = await sendFile(id, file, setSent);
      await api.addStep(id, 'import', { uploads: [upload] }, null);
      window.location.assign(`/projects/${id}`);
    } catch (problem) {
      toast.error((problem as Error).message);
      setSent(null);
    }
  };
  return (
    <>
      <input ref={input} type="file" hidden accept=".emberstone" data-project-file onChange={(e) => void open(e.target.files?.[0])} />
      <button type="button" className="btn mr-2" disabled={sent !== null} onClick={() => input.current?.click()}>
        <FolderOpen size={16} aria-hidden /> {sent === null ? 'Open a project file' : `Sending, ${Math.round(100 * sent)} %`}
      </button>
    </>
  );
}
