package expr

// Evaluations is the most conditions that one evaluation of the code decides, the
// code itself included: those inside any, every, count and their like once for every row that
// a repeating section can have. A question over all rows counts as a condition for
// every ten of them. It does not exceed most by much, so that it can't overflow.
func (c *Code) Evaluations(rows func(group int) int, most int64) int64 {
	return 1 + c.root.evaluations(rows, most)
}

func (in *inst) evaluations(rows func(group int) int, most int64) int64 {
	n := int64(0)
	for _, k := range in.kids {
		n = min(n+k.evaluations(rows, most), most+1)
	}
	switch in.op {
	case opAnyRow, opEveryRow, opCountWhere, opUnique, opRows, opOthers:
		return min((1+n)*int64(rows(int(in.group))), most+1)
	case opColumn:
		n += int64(rows(int(in.group)) / 10)
	}
	return n
}
