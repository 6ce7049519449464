package demo

import (
	"strings"
	"time"

	"lazo/core/form"
)

// Sample is a form to start a new one from.
type Sample struct {
	Form  *form.Form
	About string // what it is for and what it shows, in a sentence
}

// Matches reports whether every word of a search is in what the sample says.
func (s Sample) Matches(search string) bool {
	var b strings.Builder
	b.WriteString(s.Form.Title + " " + s.About)
	for p := range s.Form.Places() {
		b.WriteString(" " + p.Item.Label)
	}
	all := strings.ToLower(b.String())
	for word := range strings.FieldsSeq(strings.ToLower(search)) {
		if !strings.Contains(all, word) {
			return false
		}
	}
	return true
}

// Samples lists the forms to start from, their dates laid around start.
func Samples(start time.Time) []Sample {
	return []Sample{
		{
			CrewEntry(start),
			"A registration on three pages: a boat, a crew in rows with guardians for under-18s, a fee that rises with the date, partner clubs by the address.",
		},
		{ShoreCrew(start), "An intake of volunteers: roles, and certificates that only some roles need."},
		{LakeBulletin(), "A short signup for a newsletter, with the source taken from the address."},
		{
			boatStorage(),
			"A booking of winter places: one tick swaps the owner’s address for a forwarder’s, and the fee follows from length and months.",
		},
		{
			rowingCourse(start),
			"A course signup: places by level, allergies asked only where a meal is booked, a parent’s signature for children.",
		},
		{
			ownLists(MooringRequest(start)),
			"A request for a berth, by pier by shore from lists, with photographs: only berths that take the boat are on offer.",
		},
		{
			membership(),
			"A membership application: a family lists its members in rows, juniors name a school, payment details by the way of paying.",
		},
	}
}

func simple(key, title, intro string, sections ...*form.Section) *form.Form {
	return &form.Form{
		Lazo: 1, Key: key, Title: title, Timezone: zone, Language: "en-GB", Intro: intro,
		Pages: []*form.Page{{Key: "page_1", Sections: sections}},
	}
}

func boatStorage() *form.Form {
	return simple("boat-storage", "Boat storage", "Winter places in the boathouse of the **Pedralta Rowing Club**.",
		&form.Section{Key: "boat", Title: "The boat", Items: []*form.Item{
			{
				Key: "kind", Type: form.ChoiceType, Label: "Kind of boat", Required: form.Always,
				Choices: choices("single", "Single", "double", "Double", "four", "Four or larger"),
			},
			{Key: "length_m", Type: form.Number, Label: "Length in metres", Required: form.Always, Min: number(2),
				Max: number(20)},
			{Key: "trailer", Type: form.YesNo, Label: "Does it come with a trailer?", Shown: form.When("length_m > 8")},
			{Key: "stay", Type: form.Number, Label: "Months", Required: form.Always, Min: number(1), Max: number(8)},
			{Key: "fee", Type: form.Calculation, Label: "Fee in pesos",
				Value: &form.Value{Is: "length_m * stay * 120 + if(trailer, 500, 0)"}},
		}},
		&form.Section{Key: "who", Title: "Who brings it", Items: []*form.Item{
			{Key: "by_forwarder", Type: form.Tick, Label: "A forwarder brings the boat"},
			{Key: "owner_address", Type: form.Address, Label: "Owner’s address", Shown: form.When("not by_forwarder"),
				Required: form.Always},
			{Key: "forwarder", Type: form.Text, Label: "Forwarder", Shown: form.When("by_forwarder"), Required: form.Always},
			{Key: "forwarder_address", Type: form.Address, Label: "Forwarder’s address", Shown: form.When("by_forwarder"),
				Required: form.Always},
		}})
}

func rowingCourse(start time.Time) *form.Form {
	first := day(start, 21)
	return simple("rowing-course", "Learn to row",
		"Six evenings on the lake, for beginners and those who come back to it.",
		&form.Section{Key: "course", Title: "The course", Items: []*form.Item{
			{
				Key: "level", Type: form.ChoiceType, Label: "How well do you row?", Required: form.Always,
				Choices: choices("never", "Never tried", "some", "A little", "well", "Well"),
			},
			{
				Key:      "group_wish",
				Type:     form.Ranking,
				Label:    "Which evening suits you best?",
				Required: form.Always,
				Help:     "In the order in which they suit you",
				Choices: []form.Choice{{Value: "tue", Label: "Tuesday"}, {Value: "wed", Label: "Wednesday"},
					{Value: "thu", Label: "Thursday, advanced", Withheld: form.When(`level = "never"`)}},
			},
			{
				Key: "swimming", Type: form.Scale, Label: "How well do you swim?", Low: "Just so", High: "Like a fish",
				Required: form.Always,
			},
			{Key: "meal", Type: form.YesNo, Label: "Do you eat with us afterwards?"},
			{Key: "allergies", Type: form.Text, Label: "Allergies", Shown: form.When("meal")},
		}},
		&form.Section{Key: "you", Title: "About you", Columns: 2, Items: []*form.Item{
			{Key: "name", Type: form.Text, Label: "Your name", Required: form.Always},
			{Key: "birth", Type: form.Date, Label: "Date of birth", Required: form.Always},
			{Key: "email", Type: form.Email, Label: "E-mail address", Required: form.Always},
			{Key: "phone", Type: form.Phone, Label: "Phone"},
			{
				Key: "parent_name", Type: form.Text, Label: "Parent’s name",
				Shown: form.When("age(birth, " + first + ") < 16"), Required: form.Always,
			},
			{
				Key: "parent_signs", Type: form.Signature, Label: "Parent’s signature",
				Shown: form.When("age(birth, " + first + ") < 16"), Required: form.Always,
			},
		}})
}

func membership() *form.Form {
	return simple(
		"membership",
		"Membership",
		"Join the Pedralta Rowing Club.",
		&form.Section{Key: "kind", Title: "Membership", Items: []*form.Item{
			{
				Key: "member_kind", Type: form.ChoiceType, Label: "As what do you join?", Required: form.Always,
				Choices: choices("single", "Single member", "family", "Family", "junior", "Junior, under 18"),
			},
			{
				Key: "how_many", Type: form.Number, Label: "How many are you?",
				Shown: form.When(`member_kind = "family"`), Required: form.Always, Min: number(2), Max: number(8),
			},
			{Key: "school", Type: form.Text, Label: "School", Shown: form.When(`member_kind = "junior"`)},
			{
				Key: "yearly", Type: form.Calculation, Label: "Yearly fee in pesos",
				Value: &form.Value{Is: `if(member_kind = "family", 6000 + (how_many - 2) * 800, if(member_kind = "junior", 1800, 3600))`},
			},
		}},
		&form.Section{
			Key:     "people",
			Title:   "Members",
			Columns: 2,
			Repeat:  &form.Repeat{Min: 1, Max: 8, Rows: `if(member_kind = "family", how_many, 1)`, Name: "Member"},
			Items: []*form.Item{
				{Key: "full_name", Type: form.Text, Label: "Name", Required: form.Always},
				{Key: "birth", Type: form.Date, Label: "Date of birth", Required: form.Always},
			},
		},
		&form.Section{Key: "paying", Title: "Payment", Items: []*form.Item{
			{
				Key: "pays_by", Type: form.ChoiceType, Label: "How do you pay?", Required: form.Always,
				Choices: choices("transfer", "Transfer", "debit", "Direct debit", "cash", "Cash at the desk"),
			},
			{Key: "account", Type: form.Text, Label: "Account number", Shown: form.When(`pays_by = "debit"`),
				Required: form.Always},
			{
				Key: "mandate", Type: form.Tick, Label: "The club may collect the fee each year",
				Shown: form.When(`pays_by = "debit"`), Required: form.Always,
			},
			{
				Key: "treasurer", Type: form.Note, Label: "The treasurer is at the desk on Thursdays from 18:00 to 20:00.",
				Shown: form.When(`pays_by = "cash"`),
			},
		}},
	)
}
