package layout

// Acts are what stands on the trail, with the words for it.
var Acts = []Option{
	{"sign-in", "signed in"},
	{"sign-in-refused", "was refused: wrong password or code"},
	{"refused", "was refused: not for their role"},
	{"account", "changed the account"},
	{"look", "looked at responses"},
	{"look-one", "looked at a response"},
	{"change", "changed responses"},
	{"export", "took out responses"},
	{"delete", "deleted responses"},
	{"delete-form", "deleted a form"},
	{"erase", "were erased, since their time was over"},
	{"publish", "changed what is published"},
	{"people", "changed who works here"},
	{"settings", "changed settings"},
	{"person", "looked for a person’s data"},
}

// ActWords are the words for an act, with what it was about; what is said of it in words
// takes their place.
func ActWords(act, detail string) string {
	if detail != "" {
		return detail
	}
	for _, a := range Acts {
		if a.Value == act {
			return a.Label
		}
	}
	return act
}
