package fill

import (
	"lazo/core/engine"
	"lazo/web/wording"
)

// closedTexts are said where the author has no words for why a form is not open.
var closedTexts = map[engine.Opening]string{
	engine.Before: "This form is not open yet.", engine.After: "This form is closed.",
	engine.Full:    "This form has all the responses it can take.",
	engine.Offline: "This form is offline for now. Please come back later.",
}

// Closed is what people read of a form that is not open, in Markdown: the author's words,
// or else those for why it is not.
func Closed(own string, open engine.Opening, w *wording.Words) string {
	if own != "" {
		return own
	}
	return w.Say(closedTexts[open])
}
