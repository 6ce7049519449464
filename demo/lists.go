package demo

import (
	"encoding/json"
	"strings"

	"lazo/core/form"
)

// List is a list of the sample workspace.
type List struct {
	Key, Name string
	Table     form.Table
}

// table makes a table of lines of cells parted by |. The first names the columns, those
// of numbers with # before them.
func table(lines ...string) form.Table {
	t := form.Table{Entries: []form.Entry{}}
	for _, name := range strings.Split(lines[0], "|") {
		c := form.Column{Name: strings.TrimPrefix(name, "#"), Type: form.TextColumn}
		if c.Name != name {
			c.Type = form.NumberColumn
		}
		c.Key = form.ProposeKey(c.Name)
		t.Columns = append(t.Columns, c)
	}
	for _, line := range lines[1:] {
		e := form.Entry{}
		for i, cell := range strings.Split(line, "|") {
			switch c := t.Columns[i]; {
			case cell == "":
			case c.Type == form.NumberColumn:
				e[c.Key] = json.Number(cell)
			default:
				e[c.Key] = cell
			}
		}
		t.Entries = append(t.Entries, e)
	}
	return t
}

// Lists are the lists of the sample workspace: the clubs of the lake, its shores, piers
// and berths, and the people who look after them.
func Lists() []List {
	return []List{
		{"clubs", "Clubs", table("Code|Name|Town",
			"np|North Pier Rowers|Pedralta", "prc|Pedralta Rowing Club|Pedralta", "co|Canal Oars|Villa del Canal",
			"lg|Las Garzas|Las Garzas", "om|Old Mill Crew|Molino Viejo")},
		{"shores", "Shores", table("Code|Name", "n|North shore", "e|East shore, by the mill", "s|South shore")},
		{"piers", "Piers", table("Code|Name|Shore|#Fee a day|Keeper",
			"heron|Heron pier|n|90|Nadia Ferreyra",
			"long|Long pier|n|120|Nadia Ferreyra", "mill|Mill pier|e|70|Otto Bohl",
			"reed|Reed pier|s|60|Tilda Varela",
			"swan|Swan pier|s|80|Tilda Varela")},
		{"berths", "Berths", table("Code|Name|Pier|#Longest boat|#Depth",
			"h1|Heron 1|heron|6|1.2", "h2|Heron 2|heron|6|1.2",
			"h3|Heron 3|heron|9|1.6", "l1|Long 1|long|12|2.5",
			"l2|Long 2|long|12|2.5", "l3|Long 3|long|18|3.2", "m1|Mill 1|mill|7|1.1", "m2|Mill 2|mill|7|1.1",
			"r1|Reed 1|reed|5|0.8",
			"r2|Reed 2|reed|5|0.8", "s1|Swan 1|swan|8|1.4", "s2|Swan 2|swan|10|1.9")},
		{"people", "People", table("Code|Name|Looks after",
			"nf|Nadia Ferreyra|Piers of the north shore", "ob|Otto Bohl|Mill pier", "tv|Tilda Varela|South shore, crane")},
	}
}

// tables are the lists as a program takes them, by their keys.
func tables() map[string]form.Table {
	out := map[string]form.Table{}
	for _, l := range Lists() {
		out[l.Key] = l.Table
	}
	return out
}
