package demo

import "lazo/core/form"

// CanalDay is a draft that is not in order, on purpose: the proof finds somebody who could
// not send it, a question that nobody sees who can, a letter that never goes out, a part of
// a condition that says nothing, and a note that it can't decide on.
func CanalDay() *form.Form {
	return &form.Form{
		Lazo: 1, Key: "canal-day", Title: "Canal day", Timezone: zone, Language: "en-GB",
		Intro: "Bring your boat to the canal on the Sunday before the regatta.",
		Messages: []form.Message{{
			Key: "harbour", Name: "Tell the harbour master", When: `boat_source = "hired" and trailer_length >= 9`,
			To: []string{"harbour@pedralta.example"}, Subject: "A long trailer comes",
			Body: "{metres} metres, with {boat_class}.",
		}},
		Pages: []*form.Page{
			{Key: "boat", Title: "Your boat", Sections: []*form.Section{{Key: "hull", Title: "Boat", Items: []*form.Item{
				{
					Key: "lane", Type: form.ChoiceType, Label: "Launch lane", Required: form.Always,
					Choices: choices("pier", "Pier", "canal", "Canal"),
				},
				{
					Key: "boat_source", Type: form.ChoiceType, Label: "Own or hired boat", Required: form.Always,
					Choices: choices("own", "Own", "hired", "Hired"),
				},
				{
					Key: "boat_class", Type: form.ChoiceType, Label: "Boat class", Required: form.Always,
					Choices: []form.Choice{
						{Value: "single", Label: "Single", Withheld: form.When(`boat_source = "hired"`)},
						{Value: "coxed_four", Label: "Coxed four", Withheld: form.When(`lane = "canal" and boat_source = "hired"`)},
						{Value: "eight", Label: "Eight", Withheld: form.When(`lane = "canal"`)},
					},
				},
				{
					Key: "metres", Type: form.Number, Label: "Length in metres", Min: number(2), Max: number(20),
					Shown: form.When(`boat_source = "own"`), Required: form.Always,
				},
			}}}},
			{Key: "way", Title: "Your way here",
				Sections: []*form.Section{{Key: "road", Title: "On the road", Items: []*form.Item{
					{
						Key: "trailer_length", Type: form.Number, Label: "Trailer length", Help: "In metres; 25 at most are let in",
						Shown: form.When(`boat_source = "own"`), Min: number(2), Max: number(25),
					},
					{
						Key: "escort", Type: form.Tick, Label: "Escort for a long trailer", Shown: form.When("trailer_length >= 26"),
					},
					{
						Key: "cox_name", Type: form.Text, Label: "Cox’s name", Required: form.Always,
						Shown: form.When(`boat_class = "eight" and boat_class is answered`),
					},
					{
						Key: "rowers", Type: form.Number, Label: "How many come along", Min: number(1), Max: number(30),
					},
					{
						Key: "fee", Type: form.Calculation, Label: "Fee in pesos", Value: &form.Value{Is: "metres * rowers * 20"},
					},
					{
						Key: "owed", Type: form.Note, Label: "Nobody is paid for coming: please tell the office.",
						Shown: form.When("fee < 0"),
					},
				}}}},
		},
	}
}
