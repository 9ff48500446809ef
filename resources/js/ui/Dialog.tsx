import { type ReactNode, useEffect, useRef } from 'react';

export function Dialog({ title, onClose, children }: { title: string; onClose: () => void; children: ReactNode }) {
  const ref = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    ref.current?.showModal();
  }, []);
  return (
    <dialog ref={ref} className="modal" onClose={onClose} aria-label={title}>
      <div className="modal-box max-h-[85vh] border border-neutral bg-base-100">
        <h2 className="text-lg font-semibold mb-4">{title}</h2>
        {children}
      </div>
    </dialog>
  );
}
