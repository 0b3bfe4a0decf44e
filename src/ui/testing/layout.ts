/** Sizes for lists that draw what is seen: in tests nothing has any of its own. */

/** Every element is so high and wide, and stays so. */
export function withLayout(height: number, width = 400): void {
  beforeAll(() => {
    for (const [name, value] of Object.entries({ height, width }))
      for (const box of ['offset', 'client'])
        Object.defineProperty(HTMLElement.prototype, `${box}${name[0]!.toUpperCase()}${name.slice(1)}`, {
          configurable: true,
          get: () => value,
        });
    HTMLElement.prototype.scrollTo = () => {};
    globalThis.ResizeObserver = class {
      observe() {}
      unobserve() {}
      disconnect() {}
    };
  });
}
