package demo

import "lazo/core/form"

// crewLetters are the letters of the crew entry.
func crewLetters() []form.Message {
	return []form.Message{
		{
			Key: "confirmation", Name: "Confirm the entry", To: []string{"{email}"}, ReplyTo: "entries@pedralta.example",
			Subject: "Your entry: {boat_class}", Attach: []string{"response", "starting_card"},
			Body: "Dear {entered_by},\n\nyour **{boat_class}** is entered. The fee is **{fee} pesos**.\n\n" +
				"{each rowers}\n\n- {rower_name}\n\n{end}\n\nSee you on the lake!\n\nThe regatta office",
		},
		{
			Key: "paid", Name: "Thank them for paying", When: "paid is answered", To: []string{"{email}"},
			Subject: "We have your fee",
			Body:    "Dear {entered_by},\n\nwe have your fee of {fee} pesos. Thank you!",
		},
	}
}

// shoreLetters are those to the shore crew.
func shoreLetters() []form.Message {
	return []form.Message{
		{
			Key: "shift_set", Name: "Tell them their shift", When: "our_shift is answered", To: []string{"{email}"},
			ReplyTo: "shore@pedralta.example", Subject: "Your shift: {our_shift}", Again: true,
			Body: "Dear {name},\n\nwe have set your shift: **{our_shift}**. Please be at the boathouse a quarter of an hour before.\n\n" +
				"{when notes is answered}\n\nYou wrote to us:\n\n> {notes}\n\n{end}\n\nThe regatta office",
		},
	}
}

// mooringLetters are those that a mooring request sends.
func mooringLetters() []form.Message {
	return []form.Message{
		{
			Key: "long_boat", Name: "Tell the harbour master", When: "metres >= 12", To: []string{"harbour@pedralta.example"},
			ReplyTo: "{email}", Subject: "Mooring for {metres} metres: {boat_name}",
			Body: "**{boat_name}** is {metres} metres long and asks for {pier} from {first_day} on, {days_stay}.\n\n" +
				"{when crane}\n\nIt comes in by the crane.\n\n{end}\n\nAsked by {entered_by}, {phone}.",
			Attach: []string{"response"},
		},
		{
			Key: "thanks", Name: "Thank whoever asks", To: []string{"{email}"}, ReplyTo: "harbour@pedralta.example",
			Subject: "Your berth for {boat_name}", Attach: []string{"confirmation", "calendar"},
			Body: "Dear {entered_by},\n\nwe have your request for {boat_name} at {pier}. The fee is {fee} pesos.\n\n" +
				"{when second_pier is answered}\n\nIf {pier} is full, we look for a berth at {second_pier}.\n\n{end}\n\n" +
				"If something changes, this is the place to say so, or to withdraw your request: {change_link}\n\n" +
				"The regatta office",
		},
		{
			Key: "looked_after", Name: "Who looks after it", When: "handled_by is answered", To: []string{"{email}"},
			Subject: "{handled_by} looks after {boat_name}",
			Body:    "Dear {entered_by},\n\n{handled_by} looks after your request from now on.",
		},
		{
			Key: "reminder", Name: "Remind them", To: []string{"{email}"}, At: "first_day - 3 days",
			Subject: "{boat_name} comes on {first_day}",
			Body:    "Dear {entered_by},\n\nyour berth at {pier} is ready from {first_day} on.",
		},
	}
}

// What the lake bulletin says in letters; it is translated by these words.
const (
	confirmSubject = "Please confirm: the lake bulletin"
	confirmBody    = "Please confirm that you want the lake bulletin at this address:\n\n{confirm_link}\n\n" +
		"If you did not ask for it, you need not do anything."
	welcomeSubject = "Welcome aboard, {first(first_name, \"rower\")}"
	welcomeBody    = "The next lake bulletin comes to you.\n\n{when topics is answered}\n\nYou asked for {topics}.\n\n{end}\n\n" +
		"If you want it no longer, say so here: {change_link}"
)

// bulletinLetters are those of the lake bulletin, once the address is confirmed.
func bulletinLetters() []form.Message {
	return []form.Message{
		{
			Key: "welcome", Name: "Welcome them", To: []string{"{email}"}, Subject: welcomeSubject, Body: welcomeBody,
		},
	}
}

// crewDocuments are what a crew takes along.
func crewDocuments() []form.Document {
	return []form.Document{{
		Key: "starting_card", Name: "Starting card, {boat_class}", Paper: "a5",
		Body: "Entered by **{entered_by}**.\n\n{each rowers}\n\n- {rower_name}, born {born}\n\n{end}\n\n" +
			"{when cox_name is answered}\n\nCox: **{cox_name}**\n\n{end}\n\nThe fee is **{fee} pesos**.\n\n---\n\n" +
			"Show this card at the boathouse an hour before your start. The draw hangs there from eight o’clock on.",
	}}
}

// mooringDocuments are what whoever asks for a berth takes along.
func mooringDocuments() []form.Document {
	return []form.Document{{
		Key: "confirmation", Name: "Berth request of {entered_by}",
		Body: "We have your request for **{boat_name}**, {metres} metres long.\n\n" +
			"- From {first_day} to {last_day}, {days_stay}\n- At {pier}\n- The fee is {fee} pesos\n\n" +
			"{when crane}\n\nThe crane is at the end of the south shore. Please be there at eight.\n\n{otherwise}\n\n" +
			"The slipway is beside the boathouse.\n\n{end}\n\n---\n\nPlease have this with you when you come.",
	}}
}
