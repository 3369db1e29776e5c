/** Changes that were made and are not answered yet, kept by the browser: a reload or a crash does not lose them. */

import type { ChangeRequest } from "@/api/jobs";

import type { Shown } from "./document";

export interface Unsent {
  ticket: string;
  /** The page it was made on: of a tab, until it is loaded anew. */
  page: string;
  /** The revision that was seen when it was made, or that it was sent for last. */
  base: number;
  request: ChangeRequest;
  /** What is seen of it at once. */
  shown: Shown | null;
}

const MOST = 200_000; // characters: a browser keeps only so much, and the server has nearly everything anyway

/** folder: the name of the data folder that the job is in. */
const nameOf = (folder: string, job: number): string => `bisectum.unsent.${folder}.${job}`;

export function unsentOf(folder: string, job: number): Unsent[] {
  try {
    return JSON.parse(localStorage.getItem(nameOf(folder, job)) ?? "[]") as Unsent[];
  } catch {
    return [];
  }
}

function write(folder: string, job: number, all: Unsent[]): void {
  const text = JSON.stringify(all);
  try {
    if (!all.length) localStorage.removeItem(nameOf(folder, job));
    else if (text.length < MOST) localStorage.setItem(nameOf(folder, job), text);
  } catch {
    // The browser has no room, or keeps nothing for this page: then only the server keeps it.
  }
}

/** Keep one more, or one again as it is now. */
export function keepUnsent(folder: string, job: number, one: Unsent): void {
  const all = unsentOf(folder, job);
  const place = all.findIndex(({ ticket }) => ticket === one.ticket);
  write(folder, job, place < 0 ? [...all, one] : all.with(place, one));
}

export function forgetUnsent(folder: string, job: number, ticket: string): void {
  write(folder, job, unsentOf(folder, job).filter((one) => one.ticket !== ticket));
}
