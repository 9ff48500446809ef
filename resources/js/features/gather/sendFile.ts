import { Upload } from 'tus-js-client';
import { csrfHeaders } from '../../api/client';
import { nextPiece, PIECE } from './pieces';

/** Sends a file to a project, going on after a lost connection; gives the id that it is known by there. */
export const sendFile = (projectId: string, file: File, onShare: (share: number) => void): Promise<string> =>
  new Promise<string>((resolve, reject) => {
    let since = performance.now();
    const upload = new Upload(file, {
      endpoint: `/api/projects/${projectId}/uploads`,
      headers: csrfHeaders(),
      metadata: { filename: file.name },
      chunkSize: PIECE.first,
      retryDelays: [0, 500, 2000, 5000, 10000, 20000],
      removeFingerprintOnSuccess: true,
      onChunkComplete: (size) => {
        upload.options.chunkSize = nextPiece(size, performance.now() - since);
        since = performance.now();
      },
      onProgress: (sent, total) => onShare(total > 0 ? sent / total : 0),
      onError: (problem) => reject(new Error(`${file.name} did not arrive: ${problem.message.split(',')[0]}. Drop it again; what was sent is kept.`)),
      onSuccess: () => resolve(upload.url?.split('/').pop() ?? ''),
    });
    void upload.findPreviousUploads().then((found) => {
      if (found[0]) upload.resumeFromPreviousUpload(found[0]);
      since = performance.now();
      upload.start();
    });
  });
