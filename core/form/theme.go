package form

import (
	"fmt"
	"math"
	"strconv"
)

// LeastContrast is the contrast that WCAG 2.2 asks of text at level AA (success
// criterion 1.4.3).
const LeastContrast = 4.5

const white = "#ffffff"

// Contrast is the contrast ratio of two colours written #rrggbb, from 1 to 21, as
// WCAG 2.2 defines it.
func Contrast(a, b string) float64 {
	x, y := luminance(a), luminance(b)
	return (math.Max(x, y) + 0.05) / (math.Min(x, y) + 0.05)
}

// channels are a colour's red, green and blue from 0 to 1; black for what is none.
func channels(colour string) [3]float64 {
	var out [3]float64
	if !colourPattern.MatchString(colour) {
		return out
	}
	for i := range out {
		n, _ := strconv.ParseUint(colour[1+2*i:3+2*i], 16, 8) // two hexadecimal digits, as the pattern says
		out[i] = float64(n) / 255
	}
	return out
}

// luminance is the relative luminance of a colour, from 0 to 1.
func luminance(colour string) float64 {
	c := channels(colour)
	for i, v := range c {
		if v <= 0.04045 {
			c[i] = v / 12.92
		} else {
			c[i] = math.Pow((v+0.055)/1.055, 2.4)
		}
	}
	return 0.2126*c[0] + 0.7152*c[1] + 0.0722*c[2]
}

// Passing returns the colour nearest to one, of its hue, that has enough contrast
// with white both ways: white letters on it, and it as letters on a white sheet.
func Passing(colour string) string {
	if Contrast(colour, white) >= LeastContrast {
		return colour
	}
	c := channels(colour)
	for share := 0.99; share > 0; share -= 0.01 { // towards black
		darker := fmt.Sprintf(
			"#%02x%02x%02x", int(math.Round(c[0]*share*255)), int(math.Round(c[1]*share*255)), int(math.Round(c[2]*share*255)),
		)
		if Contrast(darker, white) >= LeastContrast {
			return darker
		}
	}
	return "#000000"
}

// The sheet in dark surroundings, and what is around it.
const (
	darkSheet = "#18211e"
	darkPaper = "#101715"
)

// Lit returns the colour nearest to one, of its hue, that can be read on a dark sheet.
func Lit(colour string) string {
	return towardsWhite(colour, darkSheet)
}

// PassingPaper returns the paper nearest to one on which the ink of notices and
// links outside the sheet can be read.
func PassingPaper(colour string) string {
	const ink = "#15231f"
	return towardsWhite(colour, ink)
}

// towardsWhite mixes a colour with white until it has enough contrast with another.
func towardsWhite(colour, with string) string {
	if Contrast(colour, with) >= LeastContrast {
		return colour
	}
	c := channels(colour)
	for share := 0.01; share < 1; share += 0.01 {
		mix := func(v float64) int { return int(math.Round((v + (1-v)*share) * 255)) }
		lighter := fmt.Sprintf("#%02x%02x%02x", mix(c[0]), mix(c[1]), mix(c[2]))
		if Contrast(lighter, with) >= LeastContrast {
			return lighter
		}
	}
	return white
}

// Faults lists the colours that can't be read, each with the nearest that can.
func (t *Theme) Faults() []Remark {
	var out []Remark
	say := func(property, colour, passing string) {
		if colour != "" && colour != passing {
			out = append(
				out,
				Remark{
					"contrast", Error, "theme." + property, "",
					fmt.Sprintf("%s can’t be read well enough (contrast under %.1f); the nearest that can is %s", colour,
						LeastContrast, passing),
				},
			)
		}
	}
	say("accent", t.Accent, Passing(t.Accent))
	say("paper", t.Paper, PassingPaper(t.Paper))
	return out
}

// CSS are the style rules of the theme.
func (t *Theme) CSS() string {
	css := ":root{"
	if t.Accent != "" {
		css += "--color-spruce:" + t.Accent + ";"
	}
	if t.Paper != "" {
		css += "--color-mist:" + t.Paper + ";"
	}
	if font := map[string]string{"mono": `"Atkinson Mono",ui-monospace,monospace`,
		"serif": `Georgia,"Liberation Serif",serif`, "system": "system-ui,sans-serif"}[t.Font]; font != "" {
		css += "--font-sans:" + font + ";"
	}
	css += "}"
	if width := map[string]string{"narrow": "34rem", "wide": "60rem"}[t.Width]; width != "" {
		css += ".public .sheet{max-width:" + width + "}"
	}
	css += "@media screen and (prefers-color-scheme:dark){:root{--color-mist:" + darkPaper + ";"
	if t.Accent != "" {
		css += "--color-spruce:" + Lit(t.Accent) + ";"
	}
	css += "}}"
	return css + "button.first:hover,.button.first:hover{background:var(--color-spruce);filter:brightness(.88)}"
}
