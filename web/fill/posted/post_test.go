package posted

import (
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"

	"lazo/web/ui"
)

func FuzzParseFields(f *testing.F) {
	for _, s := range []string{"", "&", "a.x=1&a.x=2&a.y=%20+", "a", "=b", "a=b=c", "%zz=1", "a;b=1", "a=%00", "a=\xff",
		"auto.x=&a.x=é"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, body string) {
		want, err := url.ParseQuery(body)
		got, err2 := ParseFields(body)
		if err2 == nil {
			assert.NoError(t, err, "what the library refuses is refused")
			assert.Equal(t, want, got)
			return
		}
		if err != nil {
			return
		}
		for name, values := range want {
			for _, v := range values {
				if !ui.Readable(name) || !ui.Readable(v) {
					return
				}
			}
		}
		t.Errorf("%q is refused", body)
	})
}
