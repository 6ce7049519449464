package demo

import (
	"time"

	"lazo/core/form"
)

// MooringRequest asks for a berth by pier by shore. Its lists are the workspace's.
func MooringRequest(start time.Time) *form.Form {
	lists := map[string]form.List{}
	for _, key := range []string{"shores", "piers", "berths", "people"} {
		lists[key] = form.List{Shared: key}
	}
	return &form.Form{
		Lazo: 1, Key: "mooring-request", Title: "Mooring request", Timezone: zone, Language: "en-GB", Lists: lists,
		Intro: "A berth for your boat during the **Pedralta Lake Regatta**: tell us what it measures, and only piers that take it are on offer.",
		End: "### Thank you, {entered_by}\n\nWe have your request for {boat_name}, {days_stay} at {pier} from {first_day} on. " +
			"{pier.keeper} answers within two days.\n\n{when crane}\n\nThe crane works in the mornings; " +
			"please be there at eight.\n\n{end}\n\n{when second_pier is answered}\n\n" +
			"If {pier} is full, we look for a berth at {second_pier}.\n\n{end}",
		Returning: &form.Returning{Change: true},
		// Nobody is asked for a first day once none is left.
		Opening: &form.Opening{Until: day(start, 60) + "T23:00",
			After: "The regatta is over, and all berths are given back."},
		Messages: mooringLetters(), Documents: mooringDocuments(),
		Hooks: []form.Hook{{Key: "crane", URL: SampleHook, When: "crane", Events: []string{"received", "changed"}}},
		Pages: []*form.Page{
			{Key: "boat", Title: "Your boat",
				Sections: []*form.Section{{Key: "hull", Title: "The boat", Columns: 2, Items: []*form.Item{
					{Key: "boat_name", Type: form.Text, Label: "Name of the boat", Required: form.Always, MaxLength: form.BoundOf(60)},
					{
						Key: "kind", Type: form.ChoiceType, Label: "What kind of boat is it?", Required: form.Always, Look: "menu",
						Choices: append(choices("rowing", "Rowing boat", "sailing", "Sailing boat", "motor", "Motor boat"),
							form.Choice{Value: "other", Label: "Another kind", Other: true}),
					},
					{
						Key: "metres", Type: form.Number, Label: "Length in metres", Required: form.Always, Min: number(2),
						Max:  number(18),
						Step: &form.Bound{Text: "0.1"},
					},
					{
						Key: "draught", Type: form.Number, Label: "Draught in metres", Required: form.Always,
						Min: &form.Bound{Text: "0.1"},
						Max: &form.Bound{Text: "metres / 3"}, Help: "How deep it goes; a third of its length at most",
					},
					{
						Key: "hull_photo", Type: form.File, Label: "A photograph of the hull", Accept: []string{"image/*"},
						MaxBytes: 5 << 20, Required: form.When("metres >= 12"), Help: "From the side, out of the water if you can",
						Wording: []form.Wording{{When: "boat_name is answered", Label: "A photograph of {boat_name}’s hull"}},
					},
					{
						Key: "crane", Type: form.Tick, Label: "The crane has to put it into the water", Shown: form.When("metres >= 6"),
						Help: "Shorter boats go in by the slipway",
					},
				}}}},
			berthPage(start),
			{Key: "owner", Title: "About you",
				Sections: []*form.Section{{Key: "who", Title: "Who asks", Columns: 2, Items: []*form.Item{
					{Key: "entered_by", Type: form.Text, Label: "Your name", Required: form.Always},
					{Key: "email", Type: form.Email, Label: "E-mail address", Required: form.Always},
					{Key: "phone", Type: form.Phone, Label: "Phone", Required: form.When("crane")},
					{
						Key: "handling", Type: form.Scale, Label: "How well do you know the lake, {entered_by}?", Low: "Never been there",
						High: "Every weekend",
					},
					{
						Key: "handled_by", Type: form.ChoiceType, Label: "Looked after by", Staff: true,
						ChoicesFrom: &form.ChoicesFrom{List: "people", Value: "code", Label: "name"},
					},
				}}}},
		},
	}
}

// berthPage is the second page: when and where, of the lists only what takes the boat.
func berthPage(start time.Time) *form.Page {
	return &form.Page{Key: "berth_page", Title: "Your berth", Sections: []*form.Section{
		{Key: "stay", Title: "When", Columns: 2, Items: []*form.Item{
			{
				Key: "first_day", Type: form.Date, Label: "First day", Required: form.Always,
				Min: &form.Bound{Text: "today"}, Max: &form.Bound{Text: day(start, 60)},
			},
			{
				Key: "last_day", Type: form.Date, Label: "Last day", Required: form.Always,
				Min: &form.Bound{Text: "first_day"}, Max: &form.Bound{Text: "first_day + 30 days"},
			},
		}},
		{Key: "place", Title: "Where", Items: []*form.Item{
			{
				Key: "shore", Type: form.ChoiceType, Label: "Shore", Required: form.Always,
				ChoicesFrom: &form.ChoicesFrom{List: "shores", Value: "code", Label: "name"},
			},
			{
				Key: "pier", Type: form.ChoiceType, Label: "Pier", Required: form.Always, Shown: form.When("shore is answered"),
				ChoicesFrom: &form.ChoicesFrom{List: "piers", Value: "code", Label: "name", Where: "entry.shore = shore"},
			},
			{
				Key: "berth", Type: form.ChoiceType, Label: "Berth at {pier}", Look: "search", Shown: form.When("pier is answered"),
				Help: "Only those that take a boat of {metres} metres are on offer. Leave it open if any will do.",
				ChoicesFrom: &form.ChoicesFrom{
					List: "berths", Value: "code", Label: "name",
					Where: "entry.pier = pier and entry.longest_boat >= metres and entry.depth > draught",
				},
			},
			{
				Key: "second_pier", Type: form.ChoiceType, Label: "And if {pier} is full?", Shown: form.When("pier is answered"),
				ChoicesFrom: &form.ChoicesFrom{List: "piers", Value: "code", Label: "name", Where: "entry.code != pier"},
			},
			{Key: "days_stay", Type: form.Hidden, Label: "Stay", Value: &form.Value{
				Is: `if(last_day = first_day, "one day", join(" ", days(first_day, last_day) + 1, "days"))`}},
			{Key: "fee", Type: form.Calculation, Label: "Fee in pesos", Value: &form.Value{
				Is: "(days(first_day, last_day) + 1) * pier.fee_a_day + if(crane is answered and crane, 900, 0)"}},
		}},
	}}
}

// ownLists gives a form the entries of the workspace's lists as its own, so that it is
// whole wherever it is taken.
func ownLists(def *form.Form) *form.Form {
	for key, t := range tables() {
		if def.Lists[key].Shared != "" {
			def.Lists[key] = form.List{Entries: t.Entries}
		}
	}
	return def
}
