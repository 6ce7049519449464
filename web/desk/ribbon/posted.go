package ribbon

import (
	"net/url"
	"strconv"
	"time"
)

// Dragged is the moment to which the ribbon was dragged, of what was posted; ok is false if
// it was not.
func Dragged(v url.Values) (at time.Time, ok bool) {
	unix, err := strconv.ParseInt(v.Get("moment"), 10, 64)
	if err != nil || v.Get("moment") == v.Get("moment-was") {
		return at, false
	}
	return time.Unix(unix, 0).UTC(), true
}
