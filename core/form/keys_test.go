package form_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"lazo/core/form"
)

func TestProposeKey(t *testing.T) {
	for label, want := range map[string]string{
		"Length in metres": "length_in_metres", "Größe": "grosse", "1st boat": "q_1st_boat", "Today": "the_today", "??": "",
		"I accept the [rules](https://club.example/rules?x=1)": "i_accept_the_rules",
	} {
		assert.Equal(t, want, form.ProposeKey(label), label)
	}
}
