// The server's types by short names. All of them are generated; nothing is declared twice.
import type { components } from "./schema";

type Schemas = components["schemas"];

export type Exercise = Schemas["Exercise"];
export type Schematic = Schemas["Schematic"];
export type Part = Schemas["Part"];
export type Wire = Schemas["Wire"];
export type Label = Schemas["Label"];
export type Point = Part["at"];
export type Kind = Schemas["KindLook"];
export type Note = Schemas["Note"];
export type Block = Schemas["Block"];
export type NamedValue = Schemas["NamedValue"];
export type NamedLook = Schemas["NamedLook"];
export type Parameter = Schemas["ParameterLook"];
export type EvaluationDelta = Schemas["EvaluationDelta"];
export type Span = Schemas["Span"];
export type Sent = Omit<Schemas["LookAsked"], "inside" | "compared" | "case">;
export type Case = Schemas["Case"];
export type CaseChange = Schemas["CaseChange"];
export type CaseLedger = Schemas["CaseLedger"];
export type BudgetLook = Schemas["BudgetLook"];
export type LedgerEntry = Schemas["LedgerRow"];
export type Change = Schemas["Change"];
/** What the document means, put together from what the server told of it. */
export type Evaluation = {
  [Key in keyof Omit<
    EvaluationDelta,
    "mark" | "since"
  >]: EvaluationDelta[Key] extends (infer Entry)[] ? Exclude<Entry, Span>[] : EvaluationDelta[Key];
};
export type PartLook = Schemas["PartLook"];
export type QuantityLook = Schemas["QuantityLook"];
export type LineLook = Schemas["LineLook"];
export type RowLook = Schemas["RowLook"];
export type DifferenceLook = Schemas["DifferenceLook"];
export type Finding = Schemas["Finding"];
export type Mend = Schemas["Mend"];
export type Placement = Schemas["Placement"];
export type Interpretation = Schemas["Interpretation"];
export type Card = Schemas["Card"];
export type Listed = Schemas["Listed"];
export type Person = Schemas["Person"];
export type Opened = Schemas["Opened"];
export type Saved = Schemas["Saved"];
export type Problem = Schemas["Problem"];
export type Revision = Schemas["RevisionOut"];
export type WavePreview = Schemas["WavePreview"];
export type NewBlock = Schemas["NewBlock"];
export type PlacedOn = Schemas["PlacedOn"];
export type Imported = Schemas["Imported"];
export type Starter = Schemas["Starter"];
export type PortsLaid = Schemas["PortsLaid"];
export type Run = Schemas["Run"];
export type Recorded = Schemas["Recorded"];
export type PlotNote = Schemas["PlotNote"];
export type Analysis = Schemas["Analysis"];
export type RunLook = Schemas["RunLook"];
export type Marker = Schemas["Marker"];
export type MarksLook = Schemas["MarksLook"];
export type Member = NonNullable<Schemas["CurveLook"]["member"]>;
export type Figure = Schemas["Figure"];
export type Measurement = Schemas["Measurement"];
export type Renaming = Schemas["Renaming"];
export type NodePlace = Schemas["NodePlace"];
export type SettingLook = Schemas["SettingLook"];
export type CurveLook = Schemas["CurveLook"];
export type BandLook = Schemas["BandLook"];
export type TableLook = Schemas["TableLook"];
export type Recipe = Schemas["Recipe"];
export type BenchRecord = Schemas["Record"];
export type Column = Schemas["Column"];
export type BesideLook = Schemas["BesideLook"];
export type BenchCurveLook = Schemas["BenchCurveLook"];
export type GapLook = Schemas["GapLook"];
export type PlanLook = Schemas["PlanLook"];
export type LeadLook = Schemas["LeadLook"];
export type TakenLook = Schemas["TakenLook"];
export type Build = Schemas["Build"];
export type FigureLook = Schemas["FigureLook"];
export type ReadTable = Schemas["ReadTable"];
export type ColumnChoice = Schemas["ColumnChoice"];
export type WayLook = Schemas["WayLook"];
