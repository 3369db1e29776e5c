import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";

import { ApiError } from "@/api/client";
import { previewRepair, repairJob } from "@/api/check";
import * as api from "@/api/jobs";
import type {
  Changed, CourseSettings, Finding, ItemMove, ItemResult, ItemsMove, Job, JobDocument, Item, MakeSettings, MakeStepKey, NewItem, PictureItem, RepairEdit, Result, StepKey,
} from "@/api/types";
import { ChangeQueue } from "@/core/changeQueue";
import { editedDocument } from "@/core/document";
import type { Edits } from "@/core/edits";
import type { Fields } from "@/core/itemChanges";
import { Latest } from "@/core/latest";
import { Pace } from "@/core/pace";
import { forgetUnsent, keepUnsent, unsentOf, type Unsent } from "@/core/unsent";

export type WorkState = "idle" | "working" | "stopped" | "failed";

/** A change that waits to be sent. apply: what it makes of the document, so that it is seen at once. */
interface Pending {
  ticket: string;
  apply: (document: JobDocument) => JobDocument;
  send: () => Promise<void>;
}

const AGAIN_MS = 1000;
const SHORT_CODES = ["superseded", "cancelled", "aborted"];
const unanswered = (reason: unknown): boolean => reason instanceof ApiError && reason.code === "offline";

/** The job on the bench: its settings as kept, with the changes on their way, and the result shown, which may be a preview. */
export const useJob = defineStore("job", () => {
  /** As the server keeps it. */
  const kept = shallowRef<Job | null>(null);
  const pending = shallowRef<readonly Pending[]>([]);
  const result = shallowRef<Result | null>(null);
  const work = ref<WorkState>("idle");
  const fraction = ref(0);
  /** The step that is being worked out. */
  const doing = ref("");
  const error = shallowRef<ApiError | null>(null);
  const unsent = computed(() => pending.value.length);
  /** Why the last change was not made. It stays until it is read, or a later one is made. */
  const refusal = shallowRef<ApiError | null>(null);
  /** Whether changes wait for a server that does not answer. */
  const waiting = ref(false);
  const itemId = ref("");
  const full = new Latest();
  const preview = new Latest();
  const opening = new Latest();
  const pace = new Pace();
  let queue: ChangeQueue<Pending> | null = null;
  let following = false;

  const document = computed<JobDocument | null>(() =>
    kept.value ? pending.value.reduce((now, change) => change.apply(now), kept.value.document) : null,
  );
  const job = computed<Job | null>(() => (kept.value && document.value ? { ...kept.value, document: document.value } : null));
  const items = computed<Item[]>(() => document.value?.items ?? []);
  const pictures = computed<PictureItem[]>(() => items.value.filter((one) => one.kind === "picture"));
  /** The picture whose steps are open. */
  const item = computed<PictureItem | null>(() => pictures.value.find((one) => one.id === itemId.value) ?? pictures.value[0] ?? null);
  /** The same without the changes on their way. */
  const keptItem = computed<PictureItem | null>(() => {
    const found = kept.value?.document.items.find((one) => one.id === item.value?.id);
    return found?.kind === "picture" ? found : null;
  });
  const course = computed<CourseSettings | null>(() => item.value?.course ?? null);
  const make = computed<MakeSettings | null>(() => document.value?.make ?? null);
  const itemResult = computed<ItemResult | null>(() => result.value?.items.find((one) => one.id === item.value?.id) ?? null);
  const facts = computed(() => itemResult.value?.facts ?? null);
  /** What is worth knowing of the open item. */
  const findings = computed<Finding[]>(() => (result.value?.findings ?? []).filter((one) => one.item === item.value?.id));
  /** What is worth knowing of the make as a whole. */
  const makeFindings = computed<Finding[]>(() => (result.value?.findings ?? []).filter((one) => !one.item));

  function fail(reason: unknown): void {
    error.value = reason instanceof ApiError ? reason : new ApiError("defect", String(reason));
  }

  // Opening

  async function open(id: number): Promise<void> {
    close();
    error.value = null;
    try {
      const found = await opening.run(() => api.getJob(id));
      if (!found) return; // another one was opened meanwhile
      kept.value = found;
      begin(id);
      await workOut();
    } catch (reason) {
      fail(reason);
    }
  }

  /** A queue of this job's own: it goes on by itself when the bench turns to another one. */
  function begin(id: number): void {
    const own = new ChangeQueue<Pending>({
      isUnanswered: unanswered,
      refused: async (reason) => {
        if (queue !== own) return;
        refusal.value = reason instanceof ApiError ? reason : new ApiError("defect", String(reason));
        kept.value = await api.getJob(id);
        void workOut();
      },
      moved: (noAnswer) => {
        if (queue !== own) return;
        pending.value = own.waiting;
        waiting.value = noAnswer;
      },
      pause: () => new Promise((done) => setTimeout(done, AGAIN_MS)),
    });
    queue = own;
    for (const unsent of unsentOf(id)) void put(id, unsent);
  }

  function openItem(id: string): void {
    itemId.value = id;
  }

  // Results

  /** Get the full result of the job as it stands. */
  async function workOut(): Promise<void> {
    if (!kept.value) return;
    const id = kept.value.id;
    work.value = "working";
    fraction.value = 0;
    doing.value = "";
    try {
      const found = await full.run((signal) => api.getResult(id, signal));
      if (!found) return;
      result.value = found;
      error.value = null;
      work.value = "idle";
    } catch (reason) {
      const code = reason instanceof ApiError ? reason.code : "";
      if (code === "aborted") return;
      work.value = code === "cancelled" ? "stopped" : "failed";
      if (code !== "cancelled") fail(reason);
    }
  }

  /** Show what a change would give, while the hand still moves. */
  const tryOut = (step: StepKey, settings: object): Promise<void> => showing((id, own, signal) => api.previewStep(id, own, step, { settings }, signal));
  const tryOutMake = (step: MakeStepKey, settings: object): Promise<void> => showing((id, _, signal) => api.previewMake(id, step, { settings }, signal));

  /** Show what a change of items, or one more of them, would give. */
  const tryItems = (changes: Record<string, Fields>): Promise<void> => showing((id, _, signal) => api.previewItems(id, changes, signal));

  /** Show what repairs would give. */
  const tryRepair = (edits: RepairEdit[]): Promise<void> => showing((id, _, signal) => previewRepair(id, edits, signal));

  async function showing(ask: (id: number, item: string, signal: AbortSignal) => Promise<Result>): Promise<void> {
    await pace.run(async () => {
      if (!kept.value) return;
      const [id, own] = [kept.value.id, item.value?.id ?? ""];
      try {
        const found = await preview.run((signal) => ask(id, own, signal));
        if (!found) return;
        result.value = found;
        error.value = null;
      } catch (reason) {
        if (!(reason instanceof ApiError && SHORT_CODES.includes(reason.code))) fail(reason);
      }
    });
  }

  function endPreview(): void {
    pace.drop();
    preview.cancel();
  }

  /** Show the job anew where it was changed elsewhere, and nothing of this page's own waits. moves: as the server tells. */
  async function follow(moves: number): Promise<void> {
    const before = kept.value;
    if (!before || moves <= before.moves || unsent.value || following) return;
    following = true;
    try {
      const now = await api.getJob(before.id);
      if (kept.value !== before || unsent.value) return;
      kept.value = now;
      await workOut();
    } catch {
      // Nobody answers, or the job is gone: whatever is done next says so.
    } finally {
      following = false;
    }
  }

  async function stop(): Promise<void> {
    if (kept.value) await api.stopJob(kept.value.id);
  }

  // Changes

  /** Keep a change of the open item as one step of the history. */
  const change = (step: StepKey, settings: object): Promise<void> => edit(step, { settings });

  async function edit(step: StepKey, edits: Edits): Promise<void> {
    if (kept.value && item.value) await put(kept.value.id, { ticket: ticket(), target: { item: item.value.id, step }, edits });
  }

  /** Keep a change of the make as one step of the history. */
  async function changeMake(step: MakeStepKey, settings: object): Promise<void> {
    if (kept.value) await put(kept.value.id, { ticket: ticket(), target: { make: step }, edits: { settings } });
  }

  /** Keep a change of one or several items as one step of the history. did: a word for it. */
  async function changeItems(changes: Record<string, Fields>, did: string): Promise<void> {
    if (kept.value) await put(kept.value.id, { ticket: ticket(), target: { items: changes, did }, edits: {} });
  }

  /** Move, size or line up items, from where they stand when it is done. did: a word for it. */
  async function moveItems(how: ItemsMove["how"], did: ItemsMove["did"]): Promise<void> {
    if (kept.value) await put(kept.value.id, { ticket: ticket(), target: { how, did }, edits: {} });
  }

  async function put(id: number, unsent: Unsent): Promise<void> {
    keepUnsent(id, unsent);
    await changed(unsent.ticket, (document) => editedDocument(document, unsent.target, unsent.edits), async (now) => {
      try {
        const answer = await sent(id, now.revision, unsent);
        forgetUnsent(id, unsent.ticket);
        return answer;
      } catch (reason) {
        if (!unanswered(reason)) forgetUnsent(id, unsent.ticket);
        throw reason;
      }
    });
  }

  function sent(id: number, revision: number, { ticket, target, edits }: Unsent): Promise<Job | Changed> {
    if ("how" in target) return api.moveItems(id, revision, target.how, target.did, ticket);
    if ("items" in target) return api.changeItems(id, revision, target.items, target.did, ticket);
    return "make" in target
      ? api.changeMake(id, revision, target.make, edits, ticket)
      : api.changeStep(id, target.item, revision, target.step, edits, ticket);
  }

  /** Put a change into the queue. send: asks the server for it, on the newest state. */
  async function changed(
    ticket: string, apply: Pending["apply"], send: (now: Job) => Promise<Job | Changed>,
  ): Promise<void> {
    const own = queue;
    if (!own || !kept.value) return;
    endPreview();
    const { id } = kept.value;
    await own.add({
      ticket, apply,
      send: async () => {
        const now = queue === own && kept.value ? kept.value : await api.getJob(id);
        const answer = await send(now);
        const next = "document" in answer ? answer : await after(now, answer, apply);
        if (queue !== own) return;
        // Both at once: a change is never seen twice, nor not at all.
        pending.value = own.waiting.filter((one) => one.ticket !== ticket);
        kept.value = next;
        refusal.value = null;
        void workOut();
      },
    });
  }

  /** The job after a change: as it was with the change made, or asked for anew where more has changed than that. */
  async function after(before: Job, answer: Changed, apply: Pending["apply"]): Promise<Job> {
    if (answer.base !== before.revision) return api.getJob(before.id);
    return { ...before, ...answer, document: apply(before.document) };
  }

  const same = (document: JobDocument): JobDocument => document;
  const moved = (send: (now: Job) => Promise<Job | Changed>, apply = same): Promise<void> => changed(ticket(), apply, send);

  async function rename(name: string): Promise<void> {
    const wanted = name.trim();
    if (wanted !== document.value?.name) {
      await moved((now) => api.renameJob(now.id, now.revision, wanted), (before) => ({ ...before, name: wanted }));
    }
  }

  // Behind changes that wait there will be something to undo, though it is not there yet.
  async function undo(): Promise<void> {
    if (kept.value?.undo || unsent.value) await moved((now) => api.undoJob(now.id, now.revision));
  }

  async function redo(): Promise<void> {
    if (kept.value?.redo) await moved((now) => api.redoJob(now.id, now.revision));
  }

  /** Mend findings, as one step of the history. code: a word for what is done. */
  function repair(code: string, edits: RepairEdit[]): Promise<void> {
    const own = ticket();
    return changed(own, same, (now) => repairJob(now.id, now.revision, code, edits, own));
  }

  const resize = (width_mm: number): Promise<void> => moved((now) => api.resizeJob(now.id, now.revision, width_mm));
  const renameItem = (id: string, name: string): Promise<void> => moved((now) => api.renameItem(now.id, id, now.revision, name));
  const addOpposite = (): Promise<void> => moved((now) => api.addOpposite(now.id, now.revision));
  const moveItem = (id: string, place: number): Promise<void> => moved((now) => api.moveItem(now.id, id, now.revision, place));
  const takeOutItem = (id: string): Promise<void> => moved((now) => api.takeOutItem(now.id, id, now.revision));

  /** Bring another picture into the job, and open its steps. */
  async function bringAnother(picture: File): Promise<void> {
    await moved(async (now) => {
      const next = await api.bringInAnother(now.id, now.revision, picture);
      itemId.value = next.document.items.at(-1)?.id ?? "";
      return next;
    });
  }

  /** Do something that brings items in. Returns the ids of those that came. */
  async function brought(send: (now: Job) => Promise<Job>): Promise<string[]> {
    let came: string[] = [];
    await moved(async (now) => {
      const next = await send(now);
      const before = new Set(now.document.items.map(({ id }) => id));
      came = next.document.items.map(({ id }) => id).filter((id) => !before.has(id));
      return next;
    });
    return came;
  }

  /** Add lettering, a shape, a drawn line or a border. */
  const addItem = (wanted: NewItem): Promise<string[]> => brought((now) => api.addItem(now.id, now.revision, wanted));
  const copyItem = (id: string, moves: ItemMove[]): Promise<string[]> => brought((now) => api.copyItem(now.id, id, now.revision, moves));

  function close(): void {
    full.cancel();
    opening.cancel();
    endPreview();
    queue = null;
    pending.value = [];
    waiting.value = false;
    refusal.value = null;
    kept.value = null;
    result.value = null;
    work.value = "idle";
  }

  return {
    kept, job, items, pictures, item, keptItem, itemId, course, make, result, itemResult, facts, findings, makeFindings, work, fraction, doing, error, refusal,
    waiting, unsent,
    open, openItem, workOut, tryOut, tryOutMake, change, edit, changeMake, rename, undo, redo, resize, renameItem, moveItem, addOpposite,
    takeOutItem, bringAnother, tryItems, tryRepair, repair, changeItems, moveItems, addItem, copyItem, follow, stop, close, fail,
  };
});

function ticket(): string {
  return crypto.randomUUID();
}

