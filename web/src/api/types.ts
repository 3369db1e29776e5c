import type { components } from "./schema";

type Schemas = components["schemas"];
export type JobSummary = Schemas["JobSummary"];
export type Job = Schemas["JobOut"];
export type Change = Schemas["ChangeOut"];
export type Result = Schemas["ResultOut"];
export type Layer = Schemas["LayerOut"];
export type Bar = Schemas["BarOut"];
export type Note = Schemas["NoteOut"];
export type CourseSettings = Schemas["CourseSettings"];
export type Correction = Schemas["Correction"];
export type LinesSettings = Schemas["LinesSettings"];
export type LinesPart = Schemas["LinesPart"];
export type LayerChoice = Schemas["LayerChoice"];
export type StepKey = keyof CourseSettings;
