import { expect, type Page } from '@playwright/test';

/** Opens a page and waits until its script is there: what is pressed or chosen before is lost. */
export async function openPage(page: Page, address: string): Promise<void> {
  await page.goto(address);
  const shortcuts = page.getByRole('dialog', { name: 'Shortcuts' });
  await expect(async () => {
    await page.keyboard.press('?');
    await expect(shortcuts).toBeVisible({ timeout: 1000 });
  }).toPass();
  await page.keyboard.press('Escape');
  await expect(shortcuts).toBeHidden();
}
