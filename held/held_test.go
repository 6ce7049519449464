package held_test

import (
	"errors"
	"strconv"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"

	"lazo/held"
)

func letters(_ int, v string) int { return len(v) }

func TestWhatWasNotAskedForLongestGoesFirst(t *testing.T) {
	c := held.New(10, letters)
	c.Add(1, "four")
	c.Add(2, "four")
	_, ok := c.Get(1)
	require.True(t, ok)
	c.Add(3, "four")
	require.Equal(t, 8, c.Bytes())
	_, ok = c.Get(2)
	require.False(t, ok, "it was the oldest")
	v, ok := c.Get(1)
	require.True(t, ok)
	require.Equal(t, "four", v)
}

func TestACacheKeepsItsBound(t *testing.T) {
	c := held.New(100, letters)
	for i := range 1000 {
		c.Add(i%70, strconv.Itoa(i*i*i))
		require.LessOrEqual(t, c.Bytes(), 100)
	}
	c.Add(5, string(make([]byte, 101)))
	_, ok := c.Get(5)
	require.True(t, ok, "what is asked for now is not made again and again")
	require.Equal(t, 101, c.Bytes())
	c.Add(6, "small")
	require.Equal(t, 5, c.Bytes())
}

func TestManyWhoAskAtOnceLetItBeMadeOnce(t *testing.T) {
	c := held.New(100, letters)
	var made atomic.Int32
	begin := make(chan struct{})
	var all sync.WaitGroup
	for range 20 {
		all.Go(func() {
			<-begin
			v, err := c.Of(1, func() (string, error) { made.Add(1); return "one", nil })
			require.NoError(t, err)
			require.Equal(t, "one", v)
		})
	}
	close(begin)
	all.Wait()
	require.EqualValues(t, 1, made.Load())
}

func TestAFailureIsNotRemembered(t *testing.T) {
	c := held.New(100, letters)
	_, err := c.Of(1, func() (string, error) { return "", errors.New("away") })
	require.EqualError(t, err, "away")
	v, err := c.Of(1, func() (string, error) { return "back", nil })
	require.NoError(t, err)
	require.Equal(t, "back", v)
}
