import type { Shop } from '$lib/server/app/shop';

declare global {
  interface Window {
    /** Told when the page’s own script is there: see app.html. */
    zingIsThere?: () => void;
  }
  namespace App {
    interface Locals {
      shop: Shop;
    }
    interface Error {
      message: string;
    }
  }
}

export {};
