// Package cache remembers what is costly to make and can be made again. What is
// remembered is bounded by its size; what was not asked for longest goes first.
package cache

import (
	"context"
	"sync"

	"github.com/hashicorp/golang-lru/v2/simplelru"
)

// Cache is safe for use by many goroutines. Its zero value holds nothing; use [New].
type Cache[K comparable, V any] struct {
	most int
	size func(K, V) int

	mu     sync.Mutex
	held   *simplelru.LRU[K, entry[V]]
	bytes  int
	making map[K]*made[V]
}

// made is a value that is being made.
type made[V any] struct {
	done    chan struct{}
	value   V
	err     error
	panics  any // what it ended with instead
	waiting int // how many wait for it
	stop    context.CancelFunc
}

type entry[V any] struct {
	value V
	size  int
}

// New returns a cache that holds values of about most bytes in all, each of about as
// many as size says. What was added last is held even if it is larger by itself.
func New[K comparable, V any](most int, size func(K, V) int) *Cache[K, V] {
	c := &Cache[K, V]{most: most, size: size, making: map[K]*made[V]{}}
	// Entries are counted by their bytes; the number given here is never reached.
	c.held, _ = simplelru.NewLRU(1<<31-1, func(_ K, e entry[V]) { c.bytes -= e.size })
	return c
}

// Get returns what is held under a key.
func (c *Cache[K, V]) Get(key K) (v V, ok bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	e, ok := c.held.Get(key)
	return e.value, ok
}

// Add holds a value under a key.
func (c *Cache[K, V]) Add(key K, v V) {
	size := c.size(key, v)
	c.mu.Lock()
	defer c.mu.Unlock()
	c.add(key, v, size)
}

func (c *Cache[K, V]) add(key K, v V, size int) {
	c.held.Remove(key)
	c.held.Add(key, entry[V]{v, size})
	for c.bytes += size; c.bytes > c.most && c.held.Len() > 1; {
		c.held.RemoveOldest()
	}
}

// Bytes is about how much is held.
func (c *Cache[K, V]) Bytes() int {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.bytes
}

// GetOrMake returns what is held under a key, and makes it if nothing is: once, however many
// ask for it meanwhile. An error is given to all of them and not remembered.
func (c *Cache[K, V]) GetOrMake(key K, make func() (V, error)) (V, error) {
	return c.OfWhile(context.Background(), key, func(context.Context) (V, error) { return make() })
}

// OfWhile is [Cache.Of] for as long as anybody waits for it: whoever's context ends leaves
// with its error, and when all have left the context that make was given ends, which holds
// what the context of the first of them does. What is made all the same is not held.
func (c *Cache[K, V]) OfWhile(ctx context.Context, key K, make func(context.Context) (V, error)) (v V, err error) {
	c.mu.Lock()
	if e, ok := c.held.Get(key); ok {
		c.mu.Unlock()
		return e.value, nil
	}
	m := c.making[key]
	if m == nil {
		m = c.begin(ctx, key, make)
	}
	m.waiting++
	c.mu.Unlock()
	select {
	case <-m.done:
	case <-ctx.Done():
		c.left(key, m)
		return v, ctx.Err()
	}
	if m.panics != nil {
		panic(m.panics) // as it would have where it is waited for
	}
	return m.value, m.err
}

// begin has a value made beside those who wait for it.
func (c *Cache[K, V]) begin(ctx context.Context, key K, build func(context.Context) (V, error)) *made[V] {
	m := &made[V]{done: make(chan struct{})}
	ctx, m.stop = context.WithCancel(context.WithoutCancel(ctx))
	c.making[key] = m
	go func() {
		defer close(m.done)
		defer m.stop()
		defer c.ended(key, m)
		defer func() { m.panics = recover() }()
		m.value, m.err = build(ctx)
	}()
	return m
}

// ended holds what was made, if anybody waited to the end.
func (c *Cache[K, V]) ended(key K, m *made[V]) {
	good, size := m.err == nil && m.panics == nil, 0
	if good {
		size = c.size(key, m.value)
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.making[key] != m {
		return
	}
	if delete(c.making, key); good {
		c.add(key, m.value, size)
	}
}

// left notes that somebody waits no more. Who asks after all have left begins anew.
func (c *Cache[K, V]) left(key K, m *made[V]) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if m.waiting--; m.waiting > 0 {
		return
	}
	m.stop()
	if c.making[key] == m {
		delete(c.making, key)
	}
}
