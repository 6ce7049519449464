// Package sat decides whether formulas over yes-or-no variables can hold together.
//
// A [Circuit] is made of inputs, of which some exclude each other, and of conjunctions of
// literals that share their parts. It is asked for a [Filling] of the inputs under which
// given literals hold; what cannot be is told for certain. Before the solver is asked, fillings
// drawn by luck are tried, since most of what can be is seen in one of them.
//
// The package knows nothing of forms.
package sat
