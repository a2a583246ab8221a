import type { Box } from '$core/geometry/box';
import { calmSeams } from '$core/panels/calm';
import { detailUnder, transposed, withSpared, type Detail } from '$core/panels/detail';
import type { Axis, PlannedWall } from '$core/panels/panels';
import type { Seam, Wall } from '$core/panels/wall';
import { Refusal } from '$lib/ui/common/client';

/** How busy the artwork is, place by place, as the server found it. */
export class WallDetail {
  /** None until it is there. */
  detail = $state.raw<Detail | undefined>();
  wrong = $state('');
  #version = '';

  /** @param from all that it is drawn from: as long as that is the same, so is it */
  async load({ id, version: saved }: { id: number; version: number }, from: string): Promise<void> {
    const version = `${id}/${from}`;
    if (version === this.#version) return;
    this.#version = version;
    try {
      const reply = await fetch(`/api/dockets/${id}/detail?version=${saved}`);
      if (!reply.ok) {
        const { error } = (await reply.json().catch(() => ({}))) as { error?: string };
        throw new Refusal(reply.status, error ?? `The server answered ${reply.status}.`, {});
      }
      const bytes = new Uint8Array(await reply.arrayBuffer());
      if (version !== this.#version) return;
      const [columns = 0, rows = 0] = new Uint32Array(bytes.slice(0, 8).buffer);
      this.detail = { columns, rows, cells: bytes.subarray(8) };
      this.wrong = '';
    } catch (error) {
      if (version !== this.#version) return;
      this.#version = '';
      this.wrong = error instanceof Error ? error.message : String(error);
    }
  }
}

/** Seams run down the rows of this: of level ones they are its columns. */
const along = (detail: Detail, axis: Axis): Detail => (axis === 'columns' ? detail : transposed(detail));

/** How busy it is under each seam, 0…1. */
export const busyUnder = (detail: Detail, { size, ...seams }: PlannedWall, axis: Axis) => {
  const turned = along(detail, axis);
  const extent = axis === 'columns' ? size.widthMm : size.heightMm;
  return seams[axis].map((seam) => detailUnder(turned, extent, seam));
};

/** Between its letters a line of lettering is no calm place either. */
const LETTERING = 0.4;
/** Strips that are hard to hold are not made. */
const LEAST_STRIP_MM = 150;

/**
 * Seams where the artwork is calm, within the range that the wall says; nothing where none keep every panel on the film.
 *
 * @param lettering where the file has any
 */
export function calmed(
  detail: Detail,
  wall: Wall,
  planned: PlannedWall,
  axis: Axis,
  lettering: readonly Box[]
): Seam[] | undefined {
  const { size, rooms } = planned;
  const isColumns = axis === 'columns';
  return calmSeams(
    along(withSpared(withSpared(detail, size, lettering, LETTERING), size, wall.spared), axis),
    isColumns ? size.widthMm : size.heightMm,
    planned[axis],
    {
      rangeMm: wall.calmMm,
      curved: wall.curved,
      rooms: rooms[axis],
      leastMm: LEAST_STRIP_MM,
      corners: isColumns ? wall.corners : [],
      cornerMm: wall.cornerMm
    }
  );
}
