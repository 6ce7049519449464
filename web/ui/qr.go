package ui

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"

	"github.com/boombuler/barcode/qr"
)

// quiet is the width of the quiet zone in modules that ISO/IEC 18004 asks for.
const quiet = 4

// Code is a text as a QR code.
type Code struct {
	size  int // modules on a side, without the quiet zone
	black func(x, y int) bool
}

// QR makes a code of a text of up to about 2,300 bytes, of which 15 % may be damaged. The
// error is that the text is too long.
func QR(text string) (Code, error) {
	code, err := qr.Encode(text, qr.M, qr.Auto)
	if err != nil {
		return Code{}, err
	}
	return Code{code.Bounds().Dx(), func(x, y int) bool { return code.At(x, y) == color.Black }}, nil
}

// SVG draws the code as an SVG document.
func (c Code) SVG() []byte {
	var b bytes.Buffer
	size := c.size + 2*quiet
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %[1]d" shape-rendering="crispEdges">`+
		`<rect width="%[1]d" height="%[1]d" fill="#fff"/><path fill="#000" d="`, size)
	for y := range c.size {
		for x := 0; x < c.size; x++ {
			run := x
			for run < c.size && c.black(run, y) {
				run++
			}
			if run > x {
				fmt.Fprintf(&b, "M%d %dh%dv1h-%dz", x+quiet, y+quiet, run-x, run-x)
				x = run
			}
		}
	}
	b.WriteString(`"/></svg>`)
	return b.Bytes()
}

// PNG draws the code as a picture in which a module is scale pixels wide.
func (c Code) PNG(scale int) ([]byte, error) {
	size := (c.size + 2*quiet) * scale
	picture := image.NewPaletted(image.Rect(0, 0, size, size), color.Palette{color.White, color.Black})
	for y := range c.size * scale {
		for x := range c.size * scale {
			if c.black(x/scale, y/scale) {
				picture.SetColorIndex(x+quiet*scale, y+quiet*scale, 1)
			}
		}
	}
	var b bytes.Buffer
	err := png.Encode(&b, picture)
	return b.Bytes(), err
}
