import type { Shop } from '$lib/server/app/shop';

declare global {
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
