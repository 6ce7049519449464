package engine_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"lazo/core/engine"
)

func TestSchedule(t *testing.T) {
	now := time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC)
	later, past := now.AddDate(0, 0, 9), now.AddDate(0, 0, -1)
	ana := engine.Scheduled{Message: "reminder", Recipient: "ana@lake.example", Open: true}
	gone := engine.Scheduled{Message: "reminder", Recipient: "ana@lake.example"}
	for name, try := range map[string]struct {
		there  []engine.Scheduled
		to     string
		became bool
		due    time.Time
		moves  int
		begins bool
	}{
		"it became met":              {nil, "ana@lake.example", true, later, -1, true},
		"met, and past already":      {nil, "ana@lake.example", true, past, -1, true},
		"its moment is known now":    {nil, "ana@lake.example", false, later, -1, true},
		"known, and past already":    {nil, "ana@lake.example", false, past, -1, false},
		"it moves":                   {[]engine.Scheduled{gone, ana}, "ana@lake.example", false, later, 1, false},
		"it moves, and was met anew": {[]engine.Scheduled{ana}, "ana@lake.example", true, later, 0, false},
		"to another address":         {[]engine.Scheduled{ana}, "bo@lake.example", false, later, -1, true},
		"it has gone":                {[]engine.Scheduled{gone}, "ana@lake.example", false, later, -1, false},
		"it has gone, and met anew":  {[]engine.Scheduled{gone}, "ana@lake.example", true, later, -1, true},
		"another message’s": {
			[]engine.Scheduled{{Message: "other", Recipient: "ana@lake.example", Open: true}}, "ana@lake.example", false, past,
			-1, false,
		},
	} {
		moves, begins := engine.Schedule(try.there, "reminder", try.to, try.became, try.due, now)
		assert.Equal(t, try.moves, moves, name)
		assert.Equal(t, try.begins, begins, name)
	}
}
