package ui_test

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/qrcode"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/web/ui"
)

// read reads a QR code as a telephone does.
func read(t *testing.T, picture image.Image) string {
	t.Helper()
	bitmap, err := gozxing.NewBinaryBitmapFromImage(picture)
	require.NoError(t, err)
	found, err := qrcode.NewQRCodeReader().Decode(bitmap, nil)
	require.NoError(t, err)
	return found.GetText()
}

// painted is the picture of a code's SVG, four pixels a module.
func painted(svg string) image.Image {
	const scale = 4
	number := func(s string) int { n, _ := strconv.Atoi(s); return n }
	size := number(regexp.MustCompile(`viewBox="0 0 (\d+)`).FindStringSubmatch(svg)[1]) * scale
	out := image.NewGray(image.Rect(0, 0, size, size))
	for i := range out.Pix {
		out.Pix[i] = 255
	}
	for _, m := range regexp.MustCompile(`M(\d+) (\d+)h(\d+)v1h-\d+z`).FindAllStringSubmatch(svg, -1) {
		for x := number(m[1]) * scale; x < (number(m[1])+number(m[3]))*scale; x++ {
			for y := range scale {
				out.SetGray(x, number(m[2])*scale+y, color.Gray{})
			}
		}
	}
	return out
}

func TestACodeIsReadBack(t *testing.T) {
	for _, text := range []string{
		"https://forms.regatta.example/f/crew-entry", "otpauth://totp/Lazo:marta@regatta.example?secret=ABCDEF234567",
		"¿Quién viene?", strings.Repeat("a", 800),
	} {
		code, err := ui.QR(text)
		require.NoError(t, err)
		assert.Equal(t, text, read(t, painted(string(code.SVG()))))
		file, err := code.PNG(6)
		require.NoError(t, err)
		picture, err := png.Decode(bytes.NewReader(file))
		require.NoError(t, err)
		assert.Equal(t, text, read(t, picture))
	}
	_, err := ui.QR(strings.Repeat("a", 3000))
	assert.Error(t, err)
}
