// Package expr is Lazo's expression language: the conditions and values that
// ties are made of.
//
// An expression goes through four hands. [Parse] turns text into a tree of
// [Node]; every node prints itself in the one canonical way, and parsing what
// it prints gives the same tree. [Compile] checks a tree against the names and
// types of a form ([Symbols]) and reports each [Fault] with its place and, where
// there is one, the name that was probably meant; nothing is left to go wrong
// at run time. The resulting [Code] is immutable and is evaluated against a
// [Frame], which holds the answers, address parameters and clock of one run.
// The same Code explains itself: [Code.Why] gives the reasons behind a result,
// and [Code.Until] the moment up to which the result cannot change.
//
// Conditions have three values, [Met], [NotMet] and [Undecided]; and, or and not
// follow Kleene's strong tables.
package expr
