<script lang="ts">
  import type { FinishedSize } from '$core/artwork/preparation';
  import type { WallPhoto } from '$core/panels/wall';
  import { attempt } from '$lib/ui/common/client';
  import { uploads } from '$lib/ui/common/upload.svelte';

  /** A photo of where the wall hangs. */
  interface Props {
    photo: WallPhoto | null;
    /** Of the wall, mm. */
    size: FinishedSize;
    ontaken: (photo: WallPhoto) => void;
  }
  const { photo, size, ontaken }: Props = $props();

  const TRIES = 40;
  const AGAIN_MS = 500;
  let taking = $state(false);

  async function take(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
    const { currentTarget: input } = event;
    const [file] = [...(input.files ?? [])];
    if (!file) return;
    taking = true;
    await attempt(async () => {
      const [artwork] = await uploads.take([file]);
      if (!artwork) throw new Error(uploads.list.find(({ name }) => name === file.name)?.error ?? 'The photo was not sent.');
      const picture = await pictureOf(artwork.id);
      ontaken({
        artworkId: artwork.id,
        aspect: picture.height / picture.width,
        // The wall's lower corners, until they are put where they are.
        points: [
          { u: 0.1, v: 0.8, x: 0, y: size.heightMm },
          { u: 0.9, v: 0.8, x: size.widthMm, y: size.heightMm }
        ]
      });
    });
    taking = false;
    input.value = '';
  }

  /** As soon as it is read. */
  async function pictureOf(id: number): Promise<HTMLImageElement> {
    for (let tries = 0; ; tries++) {
      const image = new Image();
      image.src = `/api/artworks/${id}/preview?width=1200&try=${tries}`;
      const seen = await image.decode().then(
        () => true,
        () => false
      );
      if (seen) return image;
      if (tries > TRIES) throw new Error('The photo cannot be read. Take a JPEG, PNG or TIFF.');
      await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
    }
  }
</script>

<section aria-label="Photo">
  <h2 class="panel-title leading-4">Photo</h2>
  <p>
    {photo ? 'The wall is seen on its photo.' : 'A photo of where it hangs shows how it will look.'}
    <label class="btn btn-xs"
      >{taking ? 'Taking it…' : photo ? 'Another photo' : 'Take a photo'}<input
        type="file"
        class="sr-only"
        accept="image/*"
        disabled={taking}
        aria-label="Photo of the wall"
        onchange={(event) => void take(event)}
      /></label
    >
  </p>
</section>
