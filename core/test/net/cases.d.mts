/** The package, built or from source. */
export interface Core {
  readonly CORE_VERSION: string;
}
/** A mission ready to run; seed 0 is ideal. */
export interface Case {
  readonly id: string;
  readonly prepared: unknown;
  readonly seeds: readonly number[];
}
export function cases(core: Core, whole: boolean): Generator<Case>;
export function hashesOf(core: Core, one: Case): string[];
export function generated(seed: number, placed: boolean): string;
