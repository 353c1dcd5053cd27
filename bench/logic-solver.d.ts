/** The part of logic-solver that the benchmark uses; the package ships no types. */
declare module 'logic-solver' {
  class Solver {
    require(...formulas: unknown[]): void;
    solve(): object | null;
  }
  const logic: {
    Solver: typeof Solver;
    exactlyOne(...operands: unknown[]): unknown;
    or(...operands: unknown[]): unknown;
    and(...operands: unknown[]): unknown;
    not(operand: unknown): unknown;
  };
  export default logic;
}
