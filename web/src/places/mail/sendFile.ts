import { Upload as TusUpload } from 'tus-js-client';
import { tokenHeader } from '@/api/client';

/** Sends a file in pieces by the tus protocol; a broken connection is taken up where it broke. */
export function sendFile(
  file: File,
  metadata: Record<string, string>,
  onSent: (bytes: number) => void,
): Promise<void> {
  return new Promise((done, fail) => {
    const upload = new TusUpload(file, {
      endpoint: '/api/uploads',
      chunkSize: 4_000_000,
      retryDelays: [500, 2_000, 5_000, 15_000, 60_000],
      metadata: { filename: file.name, ...metadata },
      headers: tokenHeader(),
      removeFingerprintOnSuccess: true,
      onProgress: onSent,
      onSuccess: () => done(),
      onError: (error) => fail(error),
    });
    void upload.findPreviousUploads().then((before) => {
      if (before[0]) upload.resumeFromPreviousUpload(before[0]);
      upload.start();
    });
  });
}
