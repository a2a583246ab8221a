import * as fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { uploads } from './upload.svelte';

vi.mock('svelte-sonner', () => ({ toast: {} }));

/** What happens to a part of a file on its way, in turn: so many of its bytes come; then the line breaks, or the server says something. */
interface Fate {
  bytes: number;
  /** The line to the server, when it is asked how much it has, is broken so often first. */
  deaf: number;
  status?: number;
}

/** A server that takes files in parts. */
class FakeServer {
  readonly got = new Map<string, Uint8Array>();
  readonly made: { key: string; name: string; content: string }[] = [];
  readonly fates: Fate[] = [];
  deaf = 0;

  /** @returns what is answered; nothing where the line breaks */
  part(url: URL, sent: Uint8Array): { status: number; body: unknown } | undefined {
    const [key, from, bytes] = [url.searchParams.get('upload')!, Number(url.searchParams.get('from')), Number(url.searchParams.get('bytes'))]; // prettier-ignore
    const before = this.got.get(key) ?? new Uint8Array(0);
    if (before.length !== from) return { status: 409, body: { error: 'Another amount is there.' } };
    const fate = this.fates.shift();
    if (fate?.status !== undefined) return { status: fate.status, body: { error: 'The disk is full.' } };
    const come = fate ? sent.subarray(0, fate.bytes) : sent;
    this.got.set(key, Uint8Array.from([...before, ...come]));
    this.deaf = fate?.deaf ?? 0;
    const all = this.got.get(key)!;
    if (all.length === bytes)
      this.made.push({ key, name: url.searchParams.get('name')!, content: new TextDecoder().decode(all) });
    return fate ? undefined : { status: 200, body: { id: this.made.length, name: url.searchParams.get('name') } };
  }

  ask(path: string): Response {
    if (this.deaf-- > 0) throw new TypeError('fetch failed');
    const of = path.split('/').at(-1)!;
    const made = this.made.find(({ key }) => key === of);
    return new Response(
      JSON.stringify({ bytes: this.got.get(of)?.length ?? 0, artwork: made ? { id: 1, name: made.name } : null })
    );
  }
}

let server: FakeServer;
/** As a browser has it: what was sent is told, then answered or broken off. */
class FakeRequest {
  upload: { onprogress?: (event: { loaded: number }) => void } = {};
  onload?: () => void;
  onerror?: () => void;
  onabort?: () => void;
  status = 0;
  responseText = '';
  #url = new URL('http://shop');
  #isOver = false;
  open(_: string, path: string): void {
    this.#url = new URL(path, 'http://shop');
  }
  setRequestHeader(): void {}
  abort(): void {
    this.#isOver = true;
    this.onabort?.();
  }
  send(file: Blob): void {
    void file.arrayBuffer().then((buffer) => {
      if (this.#isOver) return;
      this.upload.onprogress?.({ loaded: buffer.byteLength });
      const answer = server.part(this.#url, new Uint8Array(buffer));
      if (!answer) return this.onerror?.();
      this.status = answer.status;
      this.responseText = JSON.stringify(answer.body);
      this.onload?.();
    });
  }
}

beforeEach(() => {
  vi.useFakeTimers();
  server = new FakeServer();
  vi.stubGlobal('XMLHttpRequest', FakeRequest);
  vi.stubGlobal('fetch', (path: string) => Promise.resolve().then(() => server.ask(path)));
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
  for (const one of [...uploads.list]) uploads.forget(one);
});
/** Parts are read without a clock between them. */
const settle = async () => {
  for (let i = 0; i < 60; i++) await vi.advanceTimersByTimeAsync(500);
};

describe('files on their way to the server', () => {
  it('come whole and in order, wherever the line breaks', async () => {
    const fate = fc.record({ bytes: fc.nat(30), deaf: fc.nat(3) });
    await fc.assert(
      fc.asyncProperty(fc.array(fate, { maxLength: 6 }), fc.string({ minLength: 1, maxLength: 60 }), async (fates, text) => {
        server = new FakeServer();
        server.fates.push(...fates);
        const taken = uploads.take([new File([text], 'One.pdf'), new File([`${text}!`], 'Two.pdf')]);
        await settle();
        expect((await taken).map(({ name }) => name)).toEqual(['One.pdf', 'Two.pdf']);
        expect(server.made.map(({ content }) => content)).toEqual([text, `${text}!`].map((one) => new TextDecoder().decode(new TextEncoder().encode(one)))); // prettier-ignore
        expect(uploads.list).toEqual([]);
      }),
      { numRuns: 40 }
    );
  });

  it('that are refused say why, and the next one comes all the same', async () => {
    server.fates.push({ bytes: 0, deaf: 0, status: 507 });
    const taken = uploads.take([new File(['much'], 'Large.pdf'), new File(['more'], 'Small.pdf')]);
    await settle();
    expect((await taken).map(({ name }) => name)).toEqual(['Small.pdf']);
    expect(uploads.list.map(({ name, error, done }) => [name, error, done])).toEqual([['Large.pdf', 'The disk is full.', false]]);
  });

  it('are given up by a person while the server is away, and the line is asked no more', async () => {
    server.fates.push({ bytes: 2, deaf: 1000 });
    const taken = uploads.take([new File(['much'], 'Large.pdf')]);
    await vi.advanceTimersByTimeAsync(3000);
    expect(uploads.list[0]).toMatchObject({ waiting: 'The connection broke; it is tried again.', error: '' });
    uploads.list[0]!.cancel();
    await settle();
    expect([await taken, uploads.list, server.made]).toEqual([[], [], []]);
    const asked = server.deaf;
    await settle();
    expect(server.deaf).toBe(asked);
  });
});
