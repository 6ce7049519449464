package expr

import (
	"fmt"
	"strconv"
	"time"
)

func itoa(n int64) string { return strconv.FormatInt(n, 10) }

// Day is a civil date, counted in days from 1 January 1970. Dates lie in the
// years 1 to 9999 of the proleptic Gregorian calendar.
type Day int32

const (
	firstDay Day = -719162 // 0001-01-01
	lastDay  Day = 2932896 // 9999-12-31
)

// DayOf returns the date, or ok false if there is no such day.
func DayOf(year, month, day int) (d Day, ok bool) {
	if year < 1 || year > 9999 || month < 1 || month > 12 || day < 1 || day > monthLength(year, month) {
		return 0, false
	}
	return Day(time.Date(year, time.Month(month), day, 0, 0, 0, 0, time.UTC).Unix() / 86400), true
}

// Date returns the civil parts of d.
func (d Day) Date() (year, month, day int) {
	y, m, dd := time.Unix(int64(d)*86400, 0).UTC().Date()
	return y, int(m), dd
}

func (d Day) String() string {
	y, m, day := d.Date()
	return fmt.Sprintf("%04d-%02d-%02d", y, m, day)
}

// weekdayNames are the values of weekday, in time.Weekday's order.
var weekdayNames = [...]string{"sun", "mon", "tue", "wed", "thu", "fri", "sat"}

func (d Day) weekday() string { return weekdayNames[((int(d)+4)%7+7)%7] }

func monthLength(year, month int) int {
	return time.Date(year, time.Month(month)+1, 0, 0, 0, 0, 0, time.UTC).Day()
}

// ParseDay reads "2026-05-30".
func ParseDay(s string) (Day, bool) {
	if len(s) != 10 || s[4] != '-' || s[7] != '-' {
		return 0, false
	}
	y, ok1 := digits(s[:4])
	m, ok2 := digits(s[5:7])
	d, ok3 := digits(s[8:])
	if !ok1 || !ok2 || !ok3 {
		return 0, false
	}
	return DayOf(y, m, d)
}

// ParseTime reads "18:00" or "18:00:30" as seconds after midnight.
func ParseTime(s string) (sec int, ok bool) {
	if len(s) == 4 || len(s) == 7 {
		s = "0" + s
	}
	if (len(s) != 5 && len(s) != 8) || s[2] != ':' || (len(s) == 8 && s[5] != ':') {
		return 0, false
	}
	h, ok1 := digits(s[:2])
	m, ok2 := digits(s[3:5])
	secs, ok3 := 0, true
	if len(s) == 8 {
		secs, ok3 = digits(s[6:])
	}
	if !ok1 || !ok2 || !ok3 || h > 23 || m > 59 || secs > 59 {
		return 0, false
	}
	return h*3600 + m*60 + secs, true
}

func digits(s string) (int, bool) {
	n := 0
	for i := 0; i < len(s); i++ {
		if s[i] < '0' || s[i] > '9' {
			return 0, false
		}
		n = n*10 + int(s[i]-'0')
	}
	return n, len(s) > 0
}

func timeText(sec int64) string {
	if sec%60 == 0 {
		return fmt.Sprintf("%02d:%02d", sec/3600, sec/60%60)
	}
	return fmt.Sprintf("%02d:%02d:%02d", sec/3600, sec/60%60, sec%60)
}

// MomentIn returns the instant, in Unix seconds, of a civil date and time in a
// zone. Of a local time that the zone has twice it is the earlier one; for one
// that the zone skips it is the moment of the jump.
//
// It asks for offsets only: Time.ZoneBounds gives ends that lie in the past on
// the last day of some leap years.
func MomentIn(loc *time.Location, d Day, sec int) int64 {
	wall := int64(d)*86400 + int64(sec)
	// No offset is more than a day, so these two lie before and after.
	before, after := offset(wall-86400, loc), offset(wall+86400, loc)
	if before == after {
		if t := wall - before; offset(t, loc) == before {
			return t
		}
	}
	// The larger offset gives the earlier instant.
	for _, off := range []int64{max(before, after), min(before, after)} {
		if t := wall - off; offset(t, loc) == off {
			return t
		}
	}
	return jump(wall-86400, wall+86400, loc)
}

// offset is the zone's offset from UTC in seconds.
func offset(unix int64, loc *time.Location) int64 {
	_, off := time.Unix(unix, 0).In(loc).Zone()
	return int64(off)
}

// jump finds, by halving, the moment between low and high at which the offset
// changes from what it is at low.
func jump(low, high int64, loc *time.Location) int64 {
	at := offset(low, loc)
	for low+1 < high {
		if mid := low + (high-low)/2; offset(mid, loc) == at {
			low = mid
		} else {
			high = mid
		}
	}
	return high
}

// addMonths moves d by months; a day past the month's end is clipped to it.
func addMonths(d Day, months int) (Day, bool) {
	y, m, day := d.Date()
	at := y*12 + m - 1 + months
	if at < 12 || at >= 10000*12 {
		return 0, false
	}
	y, m = at/12, at%12+1
	return DayOf(y, m, min(day, monthLength(y, m)))
}

func addDays(d Day, days int) (Day, bool) {
	at := int64(d) + int64(days)
	if at < int64(firstDay) || at > int64(lastDay) {
		return 0, false
	}
	return Day(at), true
}

// monthsBetween counts the whole months from a to b, negative if b is earlier.
// A month is whole when the day of the month is reached, so one that begins on
// the 31st is whole only on the 1st where the next month is shorter.
func monthsBetween(a, b Day) int {
	if b < a {
		return -monthsBetween(b, a)
	}
	ya, ma, da := a.Date()
	yb, mb, db := b.Date()
	n := (yb-ya)*12 + mb - ma
	if db < da {
		n--
	}
	return n
}
