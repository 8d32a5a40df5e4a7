import type { Page } from 'playwright-core'

/** A phone, CSS pixels. */
export const PHONE = { width: 390, height: 844 }

/**
 * What a page cannot show without moving it sideways: the document where it is wider than the window, and each element that can
 * be used and lies outside it. Tables move within their own frame (WCAG 2.2, 1.4.10 leaves them out), so what stands in one is
 * left out.
 */
export const sticksOut = (page: Page): Promise<string[]> =>
  page.evaluate(() => {
    const wide = document.documentElement.clientWidth
    const found: string[] = []
    if (document.documentElement.scrollWidth > wide)
      found.push(`the page: ${document.documentElement.scrollWidth} px`)
    for (const element of document.querySelectorAll('a, button, input, select, textarea, h1, h2')) {
      const { left, right, width, height } = element.getBoundingClientRect()
      if (width <= 1 || height <= 1) continue
      if ((right > wide + 1 || left < -1) && !element.closest('table, [role=table], [role=grid]'))
        found.push(
          `${element.tagName.toLowerCase()} “${(element.textContent || element.getAttribute('aria-label') || '').slice(0, 40)}”: ${Math.round(left)} to ${Math.round(right)} px`,
        )
    }
    return found
  })
