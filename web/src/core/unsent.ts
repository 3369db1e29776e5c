/** Changes that were made and are not answered yet, kept by the browser: a reload or a crash does not lose them. */

import type { Target } from "./document";
import type { Edits } from "./edits";

export interface Unsent {
  ticket: string;
  target: Target;
  edits: Edits;
}

const MOST = 200_000; // characters: a browser keeps only so much, and the server has nearly everything anyway

const nameOf = (job: number): string => `bisectum.unsent.${job}`;

export function unsentOf(job: number): Unsent[] {
  try {
    return JSON.parse(localStorage.getItem(nameOf(job)) ?? "[]") as Unsent[];
  } catch {
    return [];
  }
}

function write(job: number, all: Unsent[]): void {
  const text = JSON.stringify(all);
  try {
    if (!all.length) localStorage.removeItem(nameOf(job));
    else if (text.length < MOST) localStorage.setItem(nameOf(job), text);
  } catch {
    // The browser has no room, or keeps nothing for this page: then only the server keeps it.
  }
}

export function keepUnsent(job: number, one: Unsent): void {
  write(job, [...unsentOf(job).filter(({ ticket }) => ticket !== one.ticket), one]);
}

export function forgetUnsent(job: number, ticket: string): void {
  write(job, unsentOf(job).filter((one) => one.ticket !== ticket));
}
