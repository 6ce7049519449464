// Package demo lays out the sample workspace: the Pedralta Lake Regatta, a
// made-up rowing event, with four forms, five lists and some two hundred responses. All
// names, places and addresses are invented.
package demo

import (
	"time"

	"lazo/core/expr"
	"lazo/core/form"
)

const zone = "America/Montevideo"

func choices(pairs ...string) []form.Choice {
	var out []form.Choice
	for i := 0; i < len(pairs); i += 2 {
		out = append(out, form.Choice{Value: pairs[i], Label: pairs[i+1]})
	}
	return out
}

func day(start time.Time, offset int) string {
	return start.AddDate(0, 0, offset).Format(time.DateOnly)
}

func number(n int64) *form.Bound {
	v := expr.Int(n)
	return &form.Bound{Number: &v}
}

// CrewEntry is the registration, its dates laid around start: it opened five
// weeks ago, early entry ends in ten days, entries close in a month.
func CrewEntry(start time.Time) *form.Form {
	early, closing, race := day(start, 10), day(start, 30), day(start, 40)
	return &form.Form{
		Lazo: 1, Key: "crew-entry", Title: "Crew entry", Timezone: zone, Language: "en-GB",
		Intro:      "Enter your crew for the **Pedralta Lake Regatta**. One form for each boat; it takes about five minutes.",
		End:        "### Your crew is entered\n\nWe have your entry. The regatta office writes to you once the draw is made. See you on the lake!",
		Parameters: []form.Parameter{{Name: "club", Label: "Partner club"}},
		Messages:   crewLetters(), Documents: crewDocuments(),
		Opening: &form.Opening{
			From: day(start, -35) + "T09:00", Until: closing + "T18:00",
			After: "Entries are closed. The regatta office helps at entries@pedralta.example.",
		},
		Pages: []*form.Page{
			{Key: "boat", Title: "Your boat", Sections: []*form.Section{
				{Key: "the_boat", Title: "Boat", Items: []*form.Item{
					{
						Key:      "boat_class",
						Type:     form.ChoiceType,
						Label:    "Boat class",
						Required: form.Always,
						Choices: []form.Choice{
							{Value: "single", Label: "Single"}, {Value: "double", Label: "Double"},
							{Value: "coxed_four", Label: "Coxed four"},
							{Value: "eight", Label: "Eight", Withheld: form.When(`lane = "canal"`)}},
					},
					{
						Key: "lane", Type: form.ChoiceType, Label: "Launch lane",
						Choices: choices("pier", "Pier", "canal", "Canal"), Help: "Eights can’t turn in the canal",
					},
					{
						Key: "boat_source", Type: form.ChoiceType, Label: "Own or hired boat", Required: form.Always,
						Choices: choices("own", "Own", "hired", "Hired from the club"),
					},
					{Key: "cox_name", Type: form.Text, Label: "Cox’s name", Help: "As it should be called over the loudspeaker",
						MaxLength: form.BoundOf(60),
						Shown:     form.When(`boat_class in ("coxed_four", "eight") and boat_source is answered`), Required: form.Always},
					{
						Key: "trailer", Type: form.Number, Label: "Trailer length in metres",
						Help: "Towbar to tail light, boat included", Shown: form.When(`boat_source = "own"`), Min: number(2),
						Max: number(25),
					},
					{
						Key: "escort", Type: form.Paragraph, Label: "Escort for a long trailer",
						Help: "Who drives ahead, and how we reach them", Shown: form.When(`trailer >= 12`), Required: form.Always,
					},
				}},
				{Key: "contact", Title: "Who enters", Columns: 2, Items: []*form.Item{
					{Key: "club", Type: form.Text, Label: "Club", Required: form.Always, Value: &form.Value{Starts: "url.club"}},
					{
						Key: "member_no", Type: form.Text, Label: "Partner number",
						Shown: form.When("url.club is answered"), Pattern: "[A-Z]{2}[0-9]{3}",
						PatternMessage: "Two letters and three digits, such as NP104.",
					},
					{Key: "entered_by", Type: form.Text, Label: "Your name", Required: form.Always},
					{Key: "email", Type: form.Email, Label: "E-mail address", Required: form.Always},
				}},
			}},
			crewPage(day(start, 0), early, race),
			{Key: "agreements", Title: "Agreements",
				Sections: []*form.Section{{Key: "rules", Title: "Rules", Items: []*form.Item{
					{Key: "swim", Type: form.Tick, Label: "Everyone in the boat can swim 300 metres in clothes",
						Required: form.Always},
					{
						Key: "guardians_agree", Type: form.Tick, Label: "The guardians of all under-18s agree",
						Shown: form.When("any(rowers, age(born, " + race + ") < 18)"), Required: form.Always,
					},
					{Key: "photos", Type: form.YesNo, Label: "May we publish photographs of your crew?"},
					{Key: "called", Type: form.Tick, Label: "Called", Staff: true},
					{Key: "paid", Type: form.ChoiceType, Label: "Paid", Staff: true, Choices: []form.Choice{
						{Value: "transfer", Label: "By transfer"}, {Value: "cash", Label: "At the desk"},
					}},
					{Key: "memo", Type: form.Text, Label: "Note to ourselves", Staff: true, MaxLength: form.BoundOf(200)},
					{Key: "entered_at", Type: form.Hidden, Label: "Entered on", Value: &form.Value{Is: "today"}},
				}}}},
		},
	}
}

// crewPage is the second page of the entry: who rows, and what it costs before and after
// early entry ends.
func crewPage(today, early, race string) *form.Page {
	return &form.Page{Key: "crew", Title: "Your crew", Sections: []*form.Section{
		{Key: "rowers", Title: "Rowers", Columns: 2, Repeat: &form.Repeat{Min: 1, Max: 8, Name: "Rower",
			Rows: `if(boat_class = "single", 1, if(boat_class = "double", 2, if(boat_class = "coxed_four", 4, 8)))`},
			Items: []*form.Item{
				{Key: "rower_name", Type: form.Text, Label: "Name", Required: form.Always},
				{Key: "born", Type: form.Date, Label: "Date of birth", Required: form.Always, Max: &form.Bound{Text: today},
					Checks: []form.Check{{OK: "age(born, " + race + ") >= 12",
						Message: "Rowers are at least 12 years old on the day of the race."}}},
				{
					Key: "guardian", Type: form.Text, Label: "Guardian’s name",
					Shown: form.When("age(born, " + race + ") < 18"), Required: form.Always,
				},
				{
					Key: "guardian_phone", Type: form.Phone, Label: "Guardian’s phone",
					Shown: form.When("age(born, " + race + ") < 18"), Required: form.Always,
				},
			}},
		{Key: "money", Title: "Fee", Items: []*form.Item{
			{
				Key: "fee", Type: form.Calculation, Label: "Entry fee in pesos",
				Value: &form.Value{Is: "count(rowers) * if(now >= " + early + "T18:00, 900, 600)"},
			},
			{Key: "late_note", Type: form.Note, Label: "Late entries pay half as much again.",
				Shown: form.When("now >= " + early + "T18:00")},
		}},
	}}
}

// ShoreCrew is the volunteers' intake.
func ShoreCrew(start time.Time) *form.Form {
	race := day(start, 40)
	return &form.Form{
		Lazo: 1, Key: "shore-crew", Title: "Shore crew", Timezone: zone, Language: "en-GB",
		Intro: "The regatta runs on its volunteers. Tell us what you would like to do and when you are free.",
		End: "### Thank you, {name}\n\nWe’ll ring you in the week before the regatta.\n\n" +
			"{when shift is answered}\n\nYour shift: **{shift}**.\n\n{end}",
		Messages: shoreLetters(),
		Pages: []*form.Page{{Key: "volunteer", Sections: []*form.Section{
			{Key: "you", Title: "About you", Columns: 2, Items: []*form.Item{
				{Key: "name", Type: form.Text, Label: "Your name", Required: form.Always},
				{Key: "phone", Type: form.Phone, Label: "Phone", Required: form.Always},
				{Key: "email", Type: form.Email, Label: "E-mail address", Help: "We write to you once your shift is set"},
				{Key: "born_on", Type: form.Date, Label: "Date of birth", Required: form.Always},
				{Key: "parent", Type: form.Text, Label: "Parent’s name", Shown: form.When("age(born_on, " + race + ") < 18"),
					Required: form.Always},
			}},
			{Key: "work", Title: "What you would like to do", Items: []*form.Item{
				{
					Key:       "roles",
					Type:      form.ChoicesType,
					Label:     "Roles",
					Required:  form.Always,
					MaxPicked: form.BoundOf(3),
					Choices: []form.Choice{
						{
							Value: "launch", Label: "Launch driver", Withheld: form.When("age(born_on, " + race + ") < 18"),
						}, {Value: "first_aid", Label: "First aid"}, {Value: "timing", Label: "Timing"},
						{Value: "kitchen", Label: "Kitchen"}, {Value: "parking", Label: "Parking"}},
				},
				{
					Key: "boat_licence", Type: form.Text, Label: "Number of your boat licence",
					Shown: form.When(`roles has "launch"`), Required: form.Always,
				},
				{
					Key:      "aid_date",
					Type:     form.Date,
					Label:    "Date of your last first-aid course",
					Shown:    form.When(`roles has "first_aid"`),
					Required: form.Always,
					Checks: []form.Check{
						{OK: "years(aid_date, " + race + ") < 3",
							Message: "The course may be three years old at most on the day of the race."},
					},
				},
				{
					Key: "free_days", Type: form.ChoicesType, Label: "Days", Required: form.Always,
					Choices: choices("fri", "Friday, setting up", "sat", "Saturday", "sun", "Sunday, and clearing away"),
				},
				{
					Key: "shift", Type: form.ChoiceType, Label: "The shift you would like most", ShowLeft: "few",
					Shown: form.When("free_days is answered"), Places: number(12),
					Choices: []form.Choice{
						{Value: "fri_eve", Label: "Friday evening", Offered: form.When(`free_days has "fri"`), Places: number(6)},
						{Value: "sat_am", Label: "Saturday morning", Offered: form.When(`free_days has "sat"`)},
						{Value: "sat_pm", Label: "Saturday afternoon", Offered: form.When(`free_days has "sat"`)},
						{Value: "sun_am", Label: "Sunday morning", Offered: form.When(`free_days has "sun"`)},
					},
				},
				{Key: "our_shift", Type: form.ChoiceType, Label: "The shift that we set", Staff: true, Choices: shifts()},
				{
					Key: "meals", Type: form.Grid, Label: "What do you eat?", Shown: form.When("free_days is answered"),
					Rows: []form.GridRow{
						{Key: "friday", Label: "Friday evening", Shown: form.When(`free_days has "fri"`)},
						{Key: "saturday", Label: "Saturday at noon", Shown: form.When(`free_days has "sat"`)},
						{Key: "sunday", Label: "Sunday at noon", Shown: form.When(`free_days has "sun"`)},
					},
					Choices: choices("any", "Anything", "veg", "No meat", "own", "I bring my own"),
				},
				{
					Key: "radio", Type: form.Scale, Label: "How used are you to a radio, {name}?",
					Low: "Never held one", High: "Every day", Shown: form.When(`roles has any ("timing", "launch", "first_aid")`),
				},
				{Key: "tent", Type: form.YesNo, Label: "Do you need a place for a tent?",
					Shown: form.When(`free_days has all ("sat", "sun")`)},
				{Key: "notes", Type: form.Paragraph, Label: "Anything we should know?", MaxLength: form.BoundOf(1000)},
			}},
		}}},
	}
}

// shifts are those that helpers are given.
func shifts() []form.Choice {
	return choices("fri_eve", "Friday evening", "sat_am", "Saturday morning", "sat_pm", "Saturday afternoon", "sun_am",
		"Sunday morning")
}

// LakeBulletin is the newsletter's signup.
func LakeBulletin() *form.Form {
	return &form.Form{
		Lazo: 1, Key: "lake-bulletin", Title: "Lake bulletin", Timezone: zone, Language: "en-GB",
		Intro:      "News from the lake, about once a month.",
		End:        "### Welcome aboard\n\nThe next bulletin comes to you.",
		Parameters: []form.Parameter{{Name: "source", Label: "Where they came from"}},
		Confirm: &form.Confirm{
			Item: "email", Within: "3 days", Subject: confirmSubject, Body: confirmBody,
		},
		Messages:  bulletinLetters(),
		Returning: &form.Returning{Change: true},
		Pages: []*form.Page{{Key: "signup", Sections: []*form.Section{{Key: "main", Items: []*form.Item{
			{Key: "email", Type: form.Email, Label: "E-mail address", Required: form.Always, Twice: true},
			{Key: "first_name", Type: form.Text, Label: "First name"},
			{
				Key: "topics", Type: form.ChoicesType, Label: "What interests you?",
				Choices: choices("results", "Results", "training", "Training", "conditions", "Water and weather"),
			},
			{
				Key: "training_level", Type: form.ChoiceType, Label: "How long have you been rowing?", Look: "menu",
				Shown:   form.When(`topics has "training"`),
				Choices: choices("new", "I am new to it", "some", "A few years", "long", "Ten years or more"),
			},
			{Key: "source", Type: form.Hidden, Label: "Source", Value: &form.Value{Is: "first(url.source, \"direct\")"}},
		}}}}},
		Translations: map[string]form.Translation{
			"es": {
				"Lake bulletin": "Boletín del lago",
				"News from the lake, about once a month.":               "Noticias del lago, más o menos una vez al mes.",
				"### Welcome aboard\n\nThe next bulletin comes to you.": "### Le damos la bienvenida a bordo\n\nEl próximo boletín le llegará a usted.",
				"E-mail address": "Correo electrónico", "First name": "Nombre",
				"What interests you?": "¿Qué le interesa?", "Results": "Resultados",
				"Training": "Entrenamiento", "Water and weather": "Agua y tiempo",
				"How long have you been rowing?": "¿Cuánto tiempo lleva remando?",
				"I am new to it":                 "Acabo de empezar", "A few years": "Unos años",
				"Ten years or more": "Diez años o más",
				confirmSubject:      "Confirme, por favor: el boletín del lago",
				confirmBody: "Confirme, por favor, que quiere recibir el boletín del lago en esta dirección:\n\n{confirm_link}\n\n" +
					"Si no lo pidió, no tiene que hacer nada.",
				welcomeSubject: "Le damos la bienvenida a bordo, {first(first_name, \"amigo del lago\")}",
				welcomeBody: "El próximo boletín del lago le llegará a usted.\n\n{when topics is answered}\n\nPidió: {topics}.\n\n{end}\n\n" +
					"Si ya no lo quiere, dígalo aquí: {change_link}",
			},
			"ar": {"Lake bulletin": "نشرة البحيرة",
				"News from the lake, about once a month.":               "أخبار البحيرة، مرة في الشهر تقريبًا.",
				"### Welcome aboard\n\nThe next bulletin comes to you.": "### أهلًا بك معنا\n\nستصلك النشرة القادمة.",
				"E-mail address": "البريد الإلكتروني", "First name": "الاسم الأول", "What interests you?": "ما الذي يهمك؟",
				"Results": "النتائج", "Training": "التدريب", "Water and weather": "الماء والطقس",
				"How long have you been rowing?": "منذ متى تمارس التجديف؟", "I am new to it": "أنا جديد فيه",
				"A few years": "بضع سنوات", "Ten years or more": "عشر سنوات أو أكثر",
				confirmSubject: "يرجى التأكيد: نشرة البحيرة",
				confirmBody: "يرجى تأكيد أنك تريد نشرة البحيرة على هذا العنوان:\n\n{confirm_link}\n\n" +
					"إن لم تطلبها فلا يلزمك شيء.",
				welcomeSubject: "أهلًا بك معنا، {first(first_name, \"صديق البحيرة\")}",
				welcomeBody: "ستصلك نشرة البحيرة القادمة.\n\n{when topics is answered}\n\nطلبت: {topics}.\n\n{end}\n\n" +
					"إن لم تعد تريدها فقل ذلك هنا: {change_link}"},
		},
	}
}
