package help

// topics are the helps of all screens, by the names of their tabs.
var topics = []topic{
	{"forms", "Your forms", []string{
		"Each line is a form. Its title leads to its manuscript, where it is written; the number leads to what people sent.",
		"A new form begins with its title. It is seen by nobody until you publish it, and what you change afterwards is seen once you publish again.",
		"“More” duplicates a form, makes the one for a new season, puts it on a shelf or sets it aside.",
	}, false},
	{"manuscript", "The manuscript", []string{
		"The form as a document: write a question on the line and press Enter; go on with the next, or press the up arrow to open it. Click a question to unfold it.",
		"Beside each question stands its margin: when it is shown, needed, locked or filled. Each of these is a tie, and is written once, on " +
			"what it changes; the opposite follows by itself. The lines lead to the questions that it depends on.",
		"What you do is saved as you go, and can be undone. The bar at the bottom says what is still to be mended before publishing.",
	}, true},
	{"rehearsal", "The rehearsal", []string{
		"Try the form before anybody sees it: fill it in, set what an address brings along, and drag the clock along the form’s time.",
		"The list of reasons says of each question why it is shown or not. “Fill so that …” fills the form for you, one way or the other.",
		"Keep a rehearsal that matters: it is run again before each publishing, and you are told if it comes out otherwise.",
	}, true},
	{"proof", "The proof", []string{
		"What the form can and can’t do, for every possible answer: what is never shown, offered or sent, and where somebody could get stuck. " +
			"“Show me” puts answers on the bench of the rehearsal that show it.",
		"A shape is one way in which the form can look. The walks are a few fillings that together bring every condition out both ways; " +
			"keep them, and they are run again at each publishing.",
		"What can’t be decided is said to be so, with the reason. Nothing is claimed of it.",
	}, true},
	{"remarks", "What is remarked on", []string{
		"What is wrong with a form, what can’t be, and what says nothing: of each what it means, why it matters, an example, and the same put right.",
	}, false},
	{"links", "Links", []string{
		"A link is an address of the form with a name, such as “Poster at the north pier”. It can bring answers along, and counts who came by it.",
		"What it can bring are the form’s address parameters; they are added at the head of the manuscript.",
	}, false},
	{"public", "In public", []string{
		"How strangers meet the form: when it is open, how it looks, what they read before and after sending. Beside each part you see what they see.",
		"In a sentence press what is underlined to change it. Drag the line on the ribbon to see what people meet at another moment.",
	}, true},
	{"publish", "Publishing", []string{
		"Publishing makes an edition: what people see from then on. An edition never changes; the next one takes its place.",
		"Before it you read what changes for people, and which of your kept rehearsals come out otherwise. You can always put an earlier edition back.",
	}, true},
	{"responses", "Responses", []string{
		"Everything that was sent. A view is a way to look at it: a condition as a sentence, its columns, their order. Press “Only some of them” to make one.",
		"Beside the table is the summary of the same responses. A response opens as a sheet, with what the office fills in and its history.",
		"A receipt names a response by its reference; type it into the search.",
	}, false},
	{"lists", "Lists", []string{
		"A list is a table that choices are drawn from, such as clubs, or piers by shore. Many forms can share one.",
		"A code stays what it is; a name may change. What was sent keeps the name that people read then.",
	}, false},
	{"outbox", "Outbox", []string{
		"Every letter that went out or is about to, why, and what became of it. One that failed can be sent again, one that waits can be held back.",
	}, false},
	{"people", "People", []string{
		"Owners may do everything; designers work on forms and responses; readers see the responses of the forms that are chosen for them.",
		"Someone new is invited by a letter. Whoever leaves is taken out here; what they made stays.",
	}, false},
	{"trail", "The trail", []string{"Who looked at, took out, changed or deleted what, and when. Nothing on it can be changed."}, false},
	{"person", "One person’s data", []string{
		"Everything that is held of one person, found by mail address or telephone: to be handed out, or erased.",
	}, false},
	{"workspace", "The workspace",
		[]string{"What holds for all its forms: what you are written to about, and which sites’ pictures may be shown."},
		false},
	{"account", "Your account", []string{
		"How you sign in: your password, a second factor, your address, and where you are signed in now. What you don’t recognise you can end.",
	}, false},
	{"files", "A form as a file", []string{
		"Saved, the draft can be kept, sent to somebody, or read into another workspace. A spreadsheet of its questions can be worked on and read in again; you see what it would change first.",
	}, false},
	{"season", "A new season",
		[]string{"The same form for another year: its dates are moved, and you look through what else has to change."},
		false},
}
