import type { Artwork } from '$lib/server/artwork/artworks';
import { newKey, Refusal, send } from '$lib/ui/common/client';

const RETRY_MS = 1000;
/** The server gave the upload up: it is too long, or the disk is full. */
const GIVEN_UP = new Set([400, 413, 507]);

export interface Upload {
  name: string;
  bytes: number;
  sent: number;
  error: string;
  /** What holds it up, while it goes on by itself. */
  waiting: string;
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

  /** Sends a file, and after a break what of it is not there yet, until it is there or a person has had enough. */
  async #send(file: File): Promise<Artwork | undefined> {
    const key = newKey();
    let stop: () => void = () => undefined;
    let cancelled = false;
    const cancel = () => {
      cancelled = true;
      stop();
    };
    this.list.push({ name: file.name, bytes: file.size, sent: 0, error: '', waiting: '', done: false, cancel });
    const upload = this.list[this.list.length - 1] as Upload;
    for (let from = 0; !cancelled;) {
      const outcome = await this.#part(file, key, from, upload, (abort) => (stop = abort));
      if (outcome.artwork) {
        upload.done = true;
        this.forget(upload);
        return outcome.artwork;
      }
      if (outcome.refused !== undefined) {
        upload.error = outcome.refused;
        return undefined;
      }
      upload.waiting = 'The connection broke; it is tried again.';
      const come = cancelled ? undefined : await this.#come(key, () => cancelled);
      if (come?.refused !== undefined) {
        upload.error = come.refused;
        return undefined;
      }
      if (come?.artwork) {
        this.forget(upload);
        return come.artwork;
      }
      from = come?.bytes ?? 0;
      upload.waiting = '';
    }
    this.forget(upload);
    return undefined;
  }

  /** Waits for the server, and asks it how much it has. */
  async #come(
    key: string,
    enough: () => boolean
  ): Promise<{ bytes: number; artwork: Artwork | null; refused?: string } | undefined> {
    while (!enough()) {
      await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
      try {
        return await send('GET', `/api/uploads/${key}`);
      } catch (error) {
        if (error instanceof Refusal && GIVEN_UP.has(error.status)) return { bytes: 0, artwork: null, refused: error.message };
      }
    }
    return undefined;
  }

  /** XMLHttpRequest, since fetch does not tell how much has been sent. @returns neither where the line broke */
  #part(
    file: File,
    key: string,
    from: number,
    upload: Upload,
    onstart: (abort: () => void) => void
  ): Promise<{ artwork?: Artwork; refused?: string }> {
    return new Promise((resolve) => {
      const request = new XMLHttpRequest();
      onstart(() => request.abort());
      upload.sent = from;
      request.upload.onprogress = ({ loaded }) => (upload.sent = from + loaded);
      request.onabort = () => resolve({});
      request.onerror = () => resolve({});
      request.onload = () => {
        const answer = readAnswer(request.responseText);
        if (request.status < 400 && answer) resolve({ artwork: answer as Artwork });
        // Between: another amount is there than was believed, or the server stops.
        else if (request.status === 409 || request.status === 503) resolve({});
        else resolve({ refused: answer?.error ?? `The server answered ${request.status}.` });
      };
      const name = encodeURIComponent(file.name.slice(0, 250) || 'unnamed');
      request.open('POST', `/api/artworks?name=${name}&upload=${key}&from=${from}&bytes=${file.size}`);
      // Without a type, as files of unknown kinds have none, the server would see no body.
      request.setRequestHeader('content-type', 'application/octet-stream');
      request.send(from > 0 ? file.slice(from) : file);
    });
  }
}

function readAnswer(text: string): (Partial<Artwork> & { error?: string }) | undefined {
  try {
    return JSON.parse(text) as Partial<Artwork> & { error?: string };
  } catch {
    return undefined;
  }
}

export const uploads = new Uploads();
