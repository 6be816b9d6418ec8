// What the sheet that is open can be asked for from elsewhere on the page.

interface OpenSheet {
  fit(): void;
  zoom(factor: number): void;
  /** The drawing as SVG text; null while nothing is drawn. */
  picture(): string | null;
}

let open: OpenSheet | null = null;

export function provideSheet(sheet: OpenSheet | null): void {
  open = sheet;
}

export const openSheet = (): OpenSheet | null => open;
