package expr

import (
	"fmt"
	"math"
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
func MomentIn(loc *time.Location, d Day, sec int) int64 {
	wall := int64(d)*86400 + int64(sec)
	guess := time.Unix(wall, 0).In(loc)
	// Every offset in force within a day and a half of the wall time is tried,
	// earliest instant first.
	best, found := int64(math.MaxInt64), false
	for at := guess.Add(-36 * time.Hour); ; {
		_, off := at.Zone()
		start, end := at.ZoneBounds()
		t := wall - int64(off)
		if (start.IsZero() || t >= start.Unix()) && (end.IsZero() || t < end.Unix()) && t < best {
			best, found = t, true
		}
		if end.IsZero() || end.After(guess.Add(36*time.Hour)) {
			break
		}
		at = end
	}
	if found {
		return best
	}
	// Skipped: the jump is the transition at which the wall clock passes it.
	for at := guess.Add(-36 * time.Hour); ; {
		_, end := at.ZoneBounds()
		if end.IsZero() {
			return wall
		}
		_, before := end.Add(-time.Second).Zone()
		_, after := end.Zone()
		if wall >= end.Unix()+int64(before) && wall < end.Unix()+int64(after) {
			return end.Unix()
		}
		if end.After(guess.Add(36 * time.Hour)) {
			return wall
		}
		at = end
	}
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

// nextOffset returns the next moment at which the zone's offset changes, or Never.
func nextOffset(unix int64, loc *time.Location) int64 {
	if _, end := time.Unix(unix, 0).In(loc).ZoneBounds(); !end.IsZero() {
		return end.Unix()
	}
	return Never
}
