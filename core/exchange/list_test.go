package exchange_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/exchange"
	"lazo/core/form"
)

func TestListsFromCSV(t *testing.T) {
	list, err := exchange.ReadList(
		strings.NewReader("\ufeffcode,name,berths,lit,gate\nn1,\"North pier, outer\",4,true,007\ns1,South slip,12,false,7\ns2,Old slip,,,\n"),
	)
	require.NoError(t, err)
	assert.Equal(t, []form.Entry{
		{"code": "n1", "name": "North pier, outer", "berths": json.Number("4"), "lit": true, "gate": "007"},
		{"code": "s1", "name": "South slip", "berths": json.Number("12"), "lit": false, "gate": "7"},
		{"code": "s2", "name": "Old slip"},
	}, list)
	var b strings.Builder
	require.NoError(t, exchange.WriteList(&b, list))
	again, err := exchange.ReadList(strings.NewReader(b.String()))
	require.NoError(t, err)
	assert.Equal(t, list, again, "what is written is read the same")
	for _, bad := range []string{"Code\nx", "a,a\n1,2", "a\n1,2", "a\n\"x"} {
		_, err := exchange.ReadList(strings.NewReader(bad))
		assert.ErrorIs(t, err, exchange.ErrList, bad)
	}
	none, err := exchange.ReadList(strings.NewReader(""))
	require.NoError(t, err)
	assert.Empty(t, none)
}
