import type { Artwork } from '$lib/server/artwork/artworks';

export interface Upload {
  name: string;
  bytes: number;
  sent: number;
  error: string;
  done: boolean;
  cancel: () => void;
}

/** Files on their way to the server, one after the other; the browser streams them from the disk. */
class Uploads {
  list = $state<Upload[]>([]);

  async take(files: Iterable<File>): Promise<Artwork[]> {
    const taken: Artwork[] = [];
    // A chooser's list empties when the chooser is cleared, which it is at once.
    for (const file of [...files]) {
      const artwork = await this.#send(file);
      if (artwork) taken.push(artwork);
    }
    return taken;
  }

  forget(upload: Upload): void {
    this.list = this.list.filter((other) => other !== upload);
  }

  /** XMLHttpRequest, since fetch does not tell how much has been sent. */
  #send(file: File): Promise<Artwork | undefined> {
    return new Promise((resolve) => {
      const request = new XMLHttpRequest();
      this.list.push({ name: file.name, bytes: file.size, sent: 0, error: '', done: false, cancel: () => request.abort() });
      const upload = this.list[this.list.length - 1] as Upload;
      const fail = (sentence: string) => {
        upload.error = sentence;
        resolve(undefined);
      };
      request.upload.onprogress = ({ loaded }) => (upload.sent = loaded);
      request.onabort = () => {
        this.forget(upload);
        resolve(undefined);
      };
      request.onerror = () => fail('The connection to the server broke. Nothing was stored; send the file again.');
      request.onload = () => {
        const answer = JSON.parse(request.responseText || '{}') as Artwork & { error?: string };
        if (request.status >= 400) return fail(answer.error ?? `The server answered ${request.status}.`);
        upload.done = true;
        this.forget(upload);
        resolve(answer);
      };
      request.open('POST', `/api/artworks?name=${encodeURIComponent(file.name.slice(0, 250) || 'unnamed')}`);
      // Without a type, as files of unknown kinds have none, the server would see no body.
      request.setRequestHeader('content-type', 'application/octet-stream');
      request.send(file);
    });
  }
}

export const uploads = new Uploads();
