package ui

import (
	"bytes"
	"fmt"

	"rsc.io/qr"
)

// QR draws a QR code with the quiet zone of four modules that ISO/IEC 18004 asks for.
func QR(code *qr.Code) []byte {
	const quiet = 4
	var b bytes.Buffer
	size := code.Size + 2*quiet
	fmt.Fprintf(
		&b,
		`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" shape-rendering="crispEdges"><rect width="%d" height="%d" fill="#fff"/><path fill="#000" d="`,
		size,
		size,
		size,
		size,
	)
	for y := range code.Size {
		for x := 0; x < code.Size; x++ {
			run := x
			for run < code.Size && code.Black(run, y) {
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
