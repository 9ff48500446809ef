import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client';
import { useWorkspace } from '../../state/context';
import { ColumnsDialog, type TextFile } from './ColumnsDialog';
import { sendFile } from './sendFile';
import { type Sending, totalOf } from './sending';

interface UploadsValue {
  sending: readonly Sending[];
  /** @param unit of files that do not say theirs; empty to guess it */
  send: (files: readonly File[], unit: string) => Promise<void>;
}

const UploadsContext = createContext<UploadsValue | null>(null);

export function useUploads(): UploadsValue {
  const value = useContext(UploadsContext);
  if (!value) throw new Error('useUploads outside of UploadsProvider');
  return value;
}

/** Files on their way to the server; they go on whichever stage is open. */
export function UploadsProvider({ children }: { children: ReactNode }) {
  const { projectId, run } = useWorkspace();
  const [sending, setSending] = useState<readonly Sending[]>([]);
  const [asking, setAsking] = useState<{ uploads: string[]; texts: TextFile[]; unit: string } | null>(null);

  // Leaving the page is not leaving the stage: whoever closes it is asked.
  const isSending = sending.length > 0;
  useEffect(() => {
    if (!isSending) return;
    const ask = (e: BeforeUnloadEvent) => e.preventDefault();
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, [isSending]);

  const bringIn = useCallback(
    (uploads: string[], unit: string, columns: Record<string, string[]> = {}) => {
      setAsking(null);
      if (uploads.length > 0) run(() => api.addStep(projectId, 'import', { uploads, ...(unit === '' ? {} : { unit }), ...(Object.keys(columns).length === 0 ? {} : { columns }) }));
    },
    [projectId, run],
  );
  const send = useCallback(
    async (files: readonly File[], unit: string) => {
      if (files.length === 0) return;
      const mine = files.map((file) => ({ file, name: file.name, bytes: file.size, share: 0 }));
      setSending((all) => [...all, ...mine]);
      const told = (file: File, share: number) => setSending((all) => all.map((s) => (s.file === file ? { ...s, share } : s)));
      const uploads: string[] = [];
      // What the columns of a text file mean is asked before it is read.
      const texts: TextFile[] = [];
      for (const file of files) {
        try {
          const upload = await sendFile(projectId, file, (share) => told(file, share));
          uploads.push(upload);
          const look = await api.columns(projectId, upload).catch(() => undefined);
          if (look) texts.push({ upload, name: file.name, look });
        } catch (problem) {
          toast.error((problem as Error).message);
        }
      }
      setSending((all) => all.filter((s) => !files.includes(s.file)));
      if (texts.length > 0) setAsking({ uploads, texts, unit });
      else bringIn(uploads, unit);
    },
    [projectId, bringIn],
  );
  const value = useMemo(() => ({ sending, send }), [sending, send]);
  return (
    <UploadsContext value={value}>
      {children}
      {asking ? (
        <ColumnsDialog
          files={asking.texts}
          onDone={(columns) => bringIn(asking.uploads, asking.unit, columns)}
          onCancel={() =>
            bringIn(
              asking.uploads.filter((u) => !asking.texts.some((t) => t.upload === u)),
              asking.unit,
            )
          }
        />
      ) : null}
    </UploadsContext>
  );
}

/** One bar for all files on their way, on every stage. */
export function UploadBar() {
  const { sending } = useUploads();
  if (sending.length === 0) return null;
  const { share, words } = totalOf(sending);
  return (
    <section className="row-start-3 flex items-center gap-2 border-t border-neutral bg-base-200 px-3 py-1" aria-label="Files on their way">
      <span className="min-w-0 truncate" title={sending.map((s) => `${s.name}: ${Math.round(100 * s.share)} %`).join('\n')}>
        {words}
      </span>
      <progress className="progress progress-primary h-1.5 flex-1" value={share} max={1} aria-label="Upload of all files" />
      <span className="w-10 text-right">{Math.floor(100 * share)} %</span>
    </section>
  );
}
