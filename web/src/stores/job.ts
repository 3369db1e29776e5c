import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";

import { ApiError, folderName } from "@/api/client";
import { previewRepair } from "@/api/check";
import * as api from "@/api/jobs";
import type {
  Changed, CourseSettings, Finding, ItemMove, ItemResult, ItemsMove, Job, JobDocument, Item, MakeSettings, MakeStepKey, NewItem, PictureItem, RepairEdit, Result, StepKey,
} from "@/api/types";
import { ChangeQueue } from "@/core/changeQueue";
import { editedDocument, type Shown } from "@/core/document";
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
/** Refusals after which a change still waits: for an answer, or for its own data folder. */
const KEEPING_CODES = ["offline", "other_folder"];
const PAGE = ticket();
type Done = (before: Job, next: Job) => void;
const codeOf = (reason: unknown): string => (reason instanceof ApiError ? reason.code : "");

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
  /** By pages, the revision that the last change which was made led to, while more of them wait. */
  let ledTo = new Map<string, number>();
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
      isUnanswered: (reason) => codeOf(reason) === "offline",
      refused: async (reason) => {
        if (queue !== own) return;
        refusal.value = reason instanceof ApiError ? reason : new ApiError("defect", String(reason));
        kept.value = await api.getJob(id);
        void workOut();
      },
      moved: (noAnswer) => {
        if (queue !== own) return;
        pending.value = own.waiting;
        if (!own.waiting.length) ledTo.clear();
        waiting.value = noAnswer;
      },
      pause: () => new Promise((done) => setTimeout(done, AGAIN_MS)),
    });
    queue = own;
    ledTo = new Map();
    for (const one of unsentOf(folderName(), id)) void put(id, one);
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
    if (!item.value) return;
    const { id } = item.value;
    await making((job) => api.changingStep(job, id, step, edits), { item: id, step, edits });
  }

  /** Keep a change of the make as one step of the history. */
  const changeMake = (step: MakeStepKey, settings: object): Promise<void> =>
    making((id) => api.changingMake(id, step, { settings }), { make: step, edits: { settings } });

  /** Keep a change of one or several items as one step of the history. did: a word for it. */
  const changeItems = (items: Record<string, Fields>, did: string): Promise<void> => making((id) => api.changingItems(id, items, did), { items });

  /** Move, size or line up items, from where they stand when it is done. did: a word for it. */
  const moveItems = (how: ItemsMove["how"], did: ItemsMove["did"]): Promise<void> => making((id) => api.movingItems(id, how, did));

  async function rename(name: string): Promise<void> {
    const wanted = name.trim();
    if (wanted !== document.value?.name) await making((id) => api.renaming(id, wanted), { name: wanted });
  }

  // Behind changes that wait there will be something to undo, though it is not there yet.
  async function undo(): Promise<void> {
    if (kept.value?.undo || unsent.value) await making(api.undoing);
  }

  async function redo(): Promise<void> {
    if (kept.value?.redo) await making(api.redoing);
  }

  /** Mend findings, as one step of the history. code: a word for what is done. */
  const repair = (code: string, edits: RepairEdit[]): Promise<void> => making((id) => api.repairing(id, code, edits));
  const resize = (width_mm: number): Promise<void> => making((id) => api.resizing(id, width_mm));
  const renameItem = (own: string, name: string): Promise<void> => making((id) => api.renamingItem(id, own, name), { items: { [own]: { name } } });
  const addOpposite = (): Promise<void> => making(api.addingOpposite);
  const moveItem = (own: string, place: number): Promise<void> => making((id) => api.orderingItem(id, own, place));
  const takeOutItem = (own: string): Promise<void> => making((id) => api.takingOutItem(id, own));

  /** Add lettering, a shape, a drawn line or a border. Returns the ids of what came. */
  const addItem = (wanted: NewItem): Promise<string[]> => brought((id) => api.addingItem(id, wanted));
  const copyItem = (own: string, moves: ItemMove[]): Promise<string[]> => brought((id) => api.copyingItem(id, own, moves));

  async function brought(asking: (id: number) => api.ChangeRequest): Promise<string[]> {
    let came: string[] = [];
    await making(asking, null, (before, next) => (came = added(before, next)));
    return came;
  }

  /** Bring another picture into the job, and open its steps. A file is not kept by the browser. */
  async function bringAnother(picture: File): Promise<void> {
    const id = kept.value?.id ?? 0;
    await queued(ticket(), null, (revision) => api.bringInAnother(id, revision, picture), (before, next) => (itemId.value = added(before, next)[0] ?? ""));
  }

  /** Make a change, kept by the browser until it is answered. asking: the request for it. shown: what is seen of it at once. */
  async function making(asking: (id: number) => api.ChangeRequest, shown: Shown | null = null, done: Done = () => undefined): Promise<void> {
    if (!kept.value) return;
    await put(kept.value.id, { ticket: ticket(), page: PAGE, base: kept.value.revision, request: asking(kept.value.id), shown }, done);
  }

  async function put(id: number, one: Unsent, done: Done = () => undefined): Promise<void> {
    const folder = folderName();
    keepUnsent(folder, id, one);
    await queued(one.ticket, one.shown, async (revision) => {
      keepUnsent(folder, id, { ...one, base: revision });
      try {
        const answer = await api.sendChange(one.request, revision, one.ticket);
        forgetUnsent(folder, id, one.ticket);
        return answer;
      } catch (reason) {
        if (!KEEPING_CODES.includes(codeOf(reason))) forgetUnsent(folder, id, one.ticket);
        throw reason;
      }
    }, done, one);
  }

  /** Put a change into the queue. send: asks the server for it, on a revision; done: told what it led to.
   *
   * It is made on what the one before it led to, if that was of the same page; else on what was seen when it was made. So one
   * behind a change that was refused, since another tab had changed the same, is not made on a state that nobody has seen. */
  async function queued(
    ticket: string, shown: Shown | null, send: (revision: number) => Promise<Job | Changed>, done: Done,
    { page, base } = { page: PAGE, base: kept.value?.revision ?? 0 },
  ): Promise<void> {
    const [own, mine] = [queue, ledTo];
    if (!own || !kept.value) return;
    endPreview();
    const { id } = kept.value;
    const apply = (before: JobDocument): JobDocument => (shown ? editedDocument(before, shown) : before);
    await own.add({
      ticket, apply,
      send: async () => {
        const answer = await send(mine.get(page) ?? base);
        mine.set(page, answer.revision);
        const now = queue === own && kept.value ? kept.value : await api.getJob(id);
        const next = "document" in answer ? answer : await after(now, answer, apply);
        if (queue !== own) return;
        // Both at once: a change is never seen twice, nor not at all.
        pending.value = own.waiting.filter((one) => one.ticket !== ticket);
        done(now, next);
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

/** The ids of the items that came in. */
function added(before: Job, next: Job): string[] {
  const old = new Set(before.document.items.map(({ id }) => id));
  return next.document.items.map(({ id }) => id).filter((id) => !old.has(id));
}
