// Package proof decides what a form can and can't do: for every input at once, not for
// some that were tried.
//
// [Of] turns a compiled form into formulas over what can be answered, arrive in an address
// and be the time, and asks a solver. What it claims holds for every input; what it says
// can happen comes with an input that shows it, which was run through core/engine. What is
// beyond the formulas is left free in them, so that nothing false is claimed, and what can
// therefore not be decided is listed with the reason. docs/proof.md says the same to those
// who make forms.
//
// # How it thinks
//
// A model has one or two sides: a form, or two editions that are compared over the same
// inputs (side.go). Its yes-or-no variables say which of finitely many things was answered to
// each question, stands in each parameter and is the time (input.go).
//
// Regions make them finite. Numbers, days, times, texts and the clock have no end of values,
// but a form tells only some apart. scan.go finds the comparisons; regions.go notes, for each
// with one variable in it, where it changes; numbers.go, texts.go and days.go choose a value
// for each stretch between, inverse.go computes back through arithmetic. The law: within a
// region every comparison that is followed comes out the same. A region too many costs time,
// one too few makes false claims; so where it is not sure, neighbours are added.
//
// A world is what follows (world.go). For each item, section and page it has formulas for when
// it is shown, what its value can be (answers.go, value.go), whether it is refused (limits.go)
// and where one comes next. Comparisons are not written anew: the engine's code is run on each
// combination of the values that stand for regions, and the formula is of those for which it
// held (truth.go). So what a comparison means stands in one place, core/expr.
//
// Truth has three values, so a condition has two formulas, met and not met, that never hold
// together; undecided is neither. The law of every function of truth.go: of all inputs, met
// holds where the engine says true, not met where it says false, and neither where it says
// unknown.
//
// What is not followed is free: a variable of its own, that the solver may choose. The formulas
// then allow what the engine does and perhaps more. From that follow the two directions:
//
//   - "never" may be claimed when the formulas can't hold together: the engine does less than
//     they allow;
//   - "can" may be claimed only with an input that the engine was run with and that shows it:
//     what the solver finds is a proposal (prover.seek, witness.go).
//
// Where the solver says that it can be and the engine disagrees, a bounded search near by tries
// (attempts.go), and what it does not find is undecided, never "never". A condition knows
// whether it is exact, so that what is surely followed needs no such search.
//
// A question about a change of the form, such as a part of a condition that is left out, is asked
// of a second world that shares all that does not hang on the change (world.instead, parts.go).
//
// Claims that quantify twice ("there are answers after which nothing can be answered here") are
// a search with a check: deadends.go finds an input in which a question is stuck, and then
// asks whether anything left blank would loosen it. The check is exact or the claim is weaker:
// waits-for instead of dead-end.
//
// Two orders keep it fast: some hundreds of inputs are run through the formulas at once, 64 in a
// word, before the solver is asked (Circuit.Sample of core/proof/sat); and what the solver learned
// stays. Time is asked for between questions (Options.Left), and what is not decided in it is
// said to be so, so that less time gives fewer claims, never other ones.
//
// # Where to look
//
// A claim that is false: prooftest.Dispute finds the input; the region that lacks it is in
// numbers.go, texts.go or days.go, or a formula of truth.go allows too little. A claim that is
// missing: why(c) says what is not followed. A new function of the language is free until
// truth.go follows it, and nothing is wrong meanwhile.
package proof
