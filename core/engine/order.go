package engine

import (
	"container/heap"
	"strings"

	"lazo/core/form"
)

// edge says that one step needs another to come first.
type edge struct {
	from, to step
	at       string // the property that makes it so
}

func (c *compiler) depend(pl place, on step) {
	c.edges = append(c.edges, edge{pl.step, on, pl.at})
}

// sort puts the steps in the order of their dependency, keeping to the order of
// the form among those that are free, and refuses circles.
func (c *compiler) sort() {
	nodes := c.steps()
	number := make(map[step]int, len(nodes))
	for i, s := range nodes {
		number[s] = i
	}
	waits := make([]int, len(nodes))
	out := make([][]int, len(nodes)) // who waits for it
	for _, e := range c.edges {
		from, to := number[e.from], number[e.to]
		waits[from]++
		out[to] = append(out[to], from)
	}
	var free earliest
	for i := range nodes {
		if waits[i] == 0 {
			free = append(free, i) // sorted, and so a heap
		}
	}
	order := make([]step, 0, len(nodes))
	for len(free) > 0 {
		at := heap.Pop(&free).(int)
		order = append(order, nodes[at])
		for _, w := range out[at] {
			if waits[w]--; waits[w] == 0 {
				heap.Push(&free, w)
			}
		}
	}
	if len(order) < len(nodes) {
		c.circles(nodes, number, waits)
		return
	}
	c.p.order = order
}

// earliest is a heap of steps by their place in the form. A run that keeps to
// the form's order reads its memory from front to back.
type earliest []int

func (h earliest) Len() int           { return len(h) }
func (h earliest) Less(i, j int) bool { return h[i] < h[j] }
func (h earliest) Swap(i, j int)      { h[i], h[j] = h[j], h[i] }
func (h *earliest) Push(x any)        { *h = append(*h, x.(int)) }
func (h *earliest) Pop() any {
	last := (*h)[len(*h)-1]
	*h = (*h)[:len(*h)-1]
	return last
}

func (c *compiler) steps() []step {
	var nodes []step
	for i := range c.p.pages {
		nodes = append(nodes, step{stepRoute, i}, step{stepExit, i})
	}
	for i, s := range c.p.sections {
		nodes = append(nodes, step{stepSection, i})
		if s.group >= 0 {
			nodes = append(nodes, step{stepRows, s.group})
		}
	}
	for i := range c.p.items {
		nodes = append(nodes, step{stepItem, i})
	}
	return nodes
}

// circles reports each circle among the steps that still wait, once for every
// item, section or page in it.
func (c *compiler) circles(nodes []step, number map[step]int, waits []int) {
	needs := make(map[int][]edge)
	for _, e := range c.edges {
		from, to := number[e.from], number[e.to]
		if waits[from] > 0 && waits[to] > 0 {
			needs[from] = append(needs[from], e)
		}
	}
	reported := map[int]bool{}
	dead := map[int]bool{} // leads into a circle that was reported, but is in none
	for start := range nodes {
		if waits[start] == 0 || reported[start] || dead[start] {
			continue
		}
		// Every waiting step needs another waiting one, so following the first
		// need from anywhere ends in a circle.
		var path []edge
		seen := map[int]int{}
		at := start
		for {
			if reported[at] || dead[at] {
				break
			}
			if from, again := seen[at]; again {
				c.circle(path[from:])
				for _, e := range path[from:] {
					reported[number[e.from]] = true
				}
				break
			}
			seen[at] = len(path)
			e := needs[at][0]
			for _, other := range needs[at] { // rather a need of the author's making
				if !reported[number[other.to]] && !dead[number[other.to]] {
					e = other
					break
				}
			}
			path = append(path, e)
			at = number[e.to]
		}
		for n := range seen {
			if !reported[n] {
				dead[n] = true
			}
		}
	}
}

func (c *compiler) circle(path []edge) {
	var names []string
	for _, e := range path {
		if name := c.nameOf(e.from); len(names) == 0 || names[len(names)-1] != name {
			names = append(names, name)
		}
	}
	if len(names) > 1 && names[0] == names[len(names)-1] {
		names = names[1:]
	}
	text := names[0] + " depends on itself"
	if len(names) > 1 {
		text = "these depend on each other in a circle: " + strings.Join(append(names, names[0]), " → ")
	}
	said := map[string]bool{}
	for _, e := range path {
		if key := c.keyOf(e.from); !said[key] {
			said[key] = true
			c.remark("cycle", form.Error, e.at, key, "%s", text)
		}
	}
}

func (c *compiler) nameOf(s step) string {
	switch s.kind {
	case stepRoute, stepExit:
		return c.p.Form.PageName(s.at)
	case stepSection:
		return c.p.sections[s.at].Name()
	case stepRows:
		return c.p.sections[c.p.groups[s.at].section].Name()
	}
	return c.p.items[s.at].Name()
}

func (c *compiler) keyOf(s step) string {
	switch s.kind {
	case stepRoute, stepExit:
		return c.p.pages[s.at].Key
	case stepSection:
		return c.p.sections[s.at].Key
	case stepRows:
		return c.p.sections[c.p.groups[s.at].section].Key
	}
	return c.p.items[s.at].Key
}
