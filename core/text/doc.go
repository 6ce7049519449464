// Package text is what people read: texts in which answers stand, and values as each
// language writes them.
//
// A [Template] is a text with expressions between braces, such as "Thank you, {name}".
// It is read once ([Parse]), checked against the names of a form, and printed for each
// outcome. What is inserted is always plain text: the printer of the place, be it
// Markdown or HTML, escapes it.
package text
