interface Asked {
  method: string;
  headers: Readonly<Record<string, string | undefined>>;
}

export const usualHost: string;
export const isolation: Readonly<Record<string, string>>;
export const usualHeaders: Readonly<Record<string, string>>;
export const allowed: string;
export function namesIn(text: string | undefined): string[];
export function isOwnHost(header: string | undefined, listensOn: string, names?: readonly string[]): boolean;
export function refusal(
  request: Asked,
  listensOn: string,
  names?: readonly string[],
): { status: number; text: string } | null;
