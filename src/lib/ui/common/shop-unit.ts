import { page } from '$app/state';
import { formatArea, formatLength, formatSheet, formatSize, formatTape, formatWidth, type ShopUnit } from '$core/units/length';
import type { ShopSettings } from '$lib/shop-settings';

/** What the shop measures in, as it is now: all that shows a length asks here. */
export const shopUnit = (): ShopUnit => (page.data['settings'] as ShopSettings).unit;

/** As its namesakes in core/units/length.ts, in the shop's unit. */
export const tape = (mm: number): string => formatTape(mm, shopUnit());
export const lengthOf = (mm: number): string => formatLength(mm, shopUnit());
export const widthOf = (mm: number): string => formatWidth(mm, shopUnit());
export const sheetOf = (widthMm: number, heightMm: number): string => formatSheet(widthMm, heightMm, shopUnit());
export const sizeOf = (widthMm: number, heightMm: number): string => formatSize(widthMm, heightMm, shopUnit());
export const areaOf = (m2: number, decimals?: number): string => formatArea(m2, shopUnit(), decimals);
