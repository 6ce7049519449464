package engine

// finish makes what every run starts from, once the form is known to be sound.
func (c *compiler) finish() {
	p := c.p
	for _, it := range p.items {
		if it.group < 0 {
			p.template = append(p.template, ItemState{item: it})
		}
	}
}
