<script lang="ts">
  import type OpenSeadragon from 'openseadragon';
  import { onMount } from 'svelte';
  import { send } from '$lib/ui/common/client';
  import ZoomButtons from '$lib/ui/common/ZoomButtons.svelte';

  interface Props {
    runId: number;
    widthPx: number;
    heightPx: number;
    dpi: number;
    on: boolean[];
    /** What they are seen on. */
    ground: 'white' | 'media';
    onpointer: (x: number, y: number) => void;
    onleave: () => void;
  }
  let { runId, widthPx, heightPx, dpi, on, ground, onpointer, onleave }: Props = $props();

  const TILE = 512;
  let element: HTMLElement;
  let viewer = $state.raw<OpenSeadragon.Viewer | undefined>(undefined);
  /** Before the picture is there its buttons would do nothing. */
  let ready = $state(false);
  /** Screen pixels a drop. */
  let zoom = $state(0);
  /** What is asked of a tile. */
  const inks = $derived(on.map((shown) => (shown ? '1' : '0')).join(''));
  const look = $derived(`inks=${inks}&on=${ground}`);

  const source = (shown: string) => {
    const maxLevel = Math.ceil(Math.log2(Math.max(widthPx, heightPx)));
    return {
      width: widthPx,
      height: heightPx,
      tileSize: TILE,
      minLevel: Math.max(0, maxLevel - Math.ceil(Math.log2(Math.max(widthPx, heightPx) / TILE)) - 1),
      maxLevel,
      getTileUrl: (level: number, x: number, y: number) =>
        `/api/runs/${runId}/tiles?shrink=${2 ** (maxLevel - level)}&x=${x}&y=${y}&${shown}`
    };
  };

  let Point: typeof OpenSeadragon.Point | undefined;

  onMount(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    void import('openseadragon').then(({ default: OSD }) => {
      Point = OSD.Point;
      const made = OSD({
        element,
        showNavigationControl: false,
        showNavigator: true,
        navigatorPosition: 'BOTTOM_LEFT',
        navigatorBackground: '#888',
        maxZoomPixelRatio: 40,
        visibilityRatio: 0.5,
        imageSmoothingEnabled: false,
        animationTime: 0.3,
        // The run lies on its side, as on every other screen.
        degrees: 270,
        gestureSettingsMouse: { clickToZoom: false },
        tileSources: [source(look)] as unknown as OpenSeadragon.Options['tileSources']
      });
      const tell = () => {
        const item = made.world.getItemAt(0);
        if (item) zoom = item.viewportToImageZoom(made.viewport.getZoom(true));
      };
      made.addHandler('animation', tell);
      made.addHandler('open', () => {
        made.viewport.goHome(true);
        tell();
        ready = true;
      });
      viewer = made;
    });
    const move = (event: PointerEvent) => {
      clearTimeout(timer);
      timer = setTimeout(() => {
        const item = viewer?.world.getItemAt(0);
        if (!Point || !item) return;
        const box = element.getBoundingClientRect();
        const at = item.viewerElementToImageCoordinates(new Point(event.clientX - box.left, event.clientY - box.top));
        if (at.x >= 0 && at.y >= 0 && at.x < widthPx && at.y < heightPx) onpointer(Math.floor(at.x), Math.floor(at.y));
        else onleave();
      }, 40);
    };
    element.addEventListener('pointermove', move);
    element.addEventListener('pointerleave', onleave);
    return () => {
      clearTimeout(timer);
      viewer?.destroy();
    };
  });

  let shownLook = '';
  let changing = false;
  $effect(() => {
    if (!viewer) return;
    if (shownLook === '') shownLook = look;
    change(look);
  });

  /** One change after another: a picture takes the place of the one that is there, and no two that of the same. */
  function change(wanted: string): void {
    if (!viewer || changing || shownLook === wanted) return;
    changing = true;
    shownLook = wanted;
    const done = () => {
      changing = false;
      change(look);
    };
    // The new picture lies over the old until it has its tiles, so that nothing jumps.
    const tileSource = source(wanted) as unknown as string;
    viewer.addTiledImage({ tileSource, index: 0, replace: true, success: done, error: done });
  }

  /** Near enough to see each drop, where ink of what is shown is nearest to the middle: that may lie between two copies. */
  async function showDrops(): Promise<void> {
    const middle = viewer?.world.getItemAt(0)?.viewportToImageCoordinates(viewer.viewport.getCenter());
    if (!middle) return;
    const within = (pixel: number, size: number) => Math.floor(Math.min(size - 1, Math.max(0, pixel)));
    const at = `x=${within(middle.x, widthPx)}&y=${within(middle.y, heightPx)}`;
    const { place } = await send<{ place: { x: number; y: number } | null }>(
      'GET',
      `/api/runs/${runId}/ink/nearest?${at}&inks=${inks}`
    ).catch(() => ({ place: null }));
    const item = viewer?.world.getItemAt(0);
    if (!viewer || !item || !Point) return;
    if (place) viewer.viewport.panTo(item.imageToViewportCoordinates(new Point(place.x, place.y)));
    viewer.viewport.zoomTo(item.imageToViewportZoom(12));
  }

  const drop = $derived(25.4 / dpi);
</script>

<div class="relative h-full w-full">
  <div bind:this={element} class="bg-base-300 h-full w-full" role="application" aria-label="Plates, to zoom and move"></div>
  <ZoomButtons
    whole="run"
    disabled={!ready}
    onzoom={(factor) => viewer?.viewport.zoomBy(factor)}
    onfit={() => viewer?.viewport.goHome()}
  >
    <span class="bg-base-100/90 px-2 py-0.5 text-xs">
      {zoom >= 1 ? `a drop is ${zoom.toFixed(zoom < 10 ? 1 : 0)} pixels` : `1 : ${(1 / Math.max(1e-6, zoom)).toFixed(0)}`}, {(
        drop * 1000
      ).toFixed(0)} µm a drop
    </span>
    <button class="btn btn-xs" disabled={!ready} onclick={showDrops}>Single drops</button>
  </ZoomButtons>
</div>
