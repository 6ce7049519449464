// Package held remembers what is costly to make and can be made again. What is
// remembered is bounded by its size; what was not asked for longest goes first.
package held

import (
	"fmt"
	"sync"

	"github.com/hashicorp/golang-lru/v2/simplelru"
	"golang.org/x/sync/singleflight"
)

// Cache is safe for use by many goroutines. Its zero value holds nothing; use [New].
type Cache[K comparable, V any] struct {
	most int
	size func(K, V) int

	mu    sync.Mutex
	held  *simplelru.LRU[K, entry[V]]
	bytes int

	making singleflight.Group
}

type entry[V any] struct {
	value V
	size  int
}

// New returns a cache that holds values of about most bytes in all, each of about as
// many as size says. What was added last is held even if it is larger by itself.
func New[K comparable, V any](most int, size func(K, V) int) *Cache[K, V] {
	c := &Cache[K, V]{most: most, size: size}
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

// Of returns what is held under a key, and makes it if nothing is: once, however many
// ask for it meanwhile. An error is given to all of them and not remembered.
func (c *Cache[K, V]) Of(key K, make func() (V, error)) (V, error) {
	if v, ok := c.Get(key); ok {
		return v, nil
	}
	v, err, _ := c.making.Do(fmt.Sprintf("%#v", key), func() (any, error) {
		if v, ok := c.Get(key); ok {
			return v, nil
		}
		v, err := make()
		if err == nil {
			c.Add(key, v)
		}
		return v, err
	})
	if err != nil {
		var none V
		return none, err
	}
	return v.(V), nil
}
