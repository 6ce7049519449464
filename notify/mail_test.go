package notify

import (
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestAnAnswerInASubjectIsNoEncodedWord(t *testing.T) {
	assert.Equal(t, "Mooring for = ?utf-8?B?SGVsbG8= ?=", asWords("Mooring for =?utf-8?B?SGVsbG8=?="))
	assert.Equal(t, "What = this?", asWords("What = this?"))
}

func TestNetworksThatAreNotPublic(t *testing.T) {
	c := newCaller(nil)
	for _, at := range []string{"3fff::1", "5f00::1", "10.0.0.1", "::1", "fd00::1"} {
		assert.False(t, c.may(netip.MustParseAddr(at)), at)
	}
	assert.True(t, c.may(netip.MustParseAddr("2a00:1450:4001::1")))
}
