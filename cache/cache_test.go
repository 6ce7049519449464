package cache_test

import (
	"context"
	"errors"
	"strconv"
	"sync"
	"sync/atomic"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/cache"
)

func letters(_ int, v string) int { return len(v) }

func TestWhatWasNotAskedForLongestGoesFirst(t *testing.T) {
	c := cache.New(10, letters)
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
	c := cache.New(100, letters)
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
	c := cache.New(100, letters)
	var made atomic.Int32
	begin := make(chan struct{})
	var all sync.WaitGroup
	for range 20 {
		all.Go(func() {
			<-begin
			v, err := c.GetOrMake(1, func() (string, error) { made.Add(1); return "one", nil })
			require.NoError(t, err)
			require.Equal(t, "one", v)
		})
	}
	close(begin)
	all.Wait()
	require.EqualValues(t, 1, made.Load())
}

func TestAFailureIsNotRemembered(t *testing.T) {
	c := cache.New(100, letters)
	_, err := c.GetOrMake(1, func() (string, error) { return "", errors.New("away") })
	require.EqualError(t, err, "away")
	v, err := c.GetOrMake(1, func() (string, error) { return "back", nil })
	require.NoError(t, err)
	require.Equal(t, "back", v)
}

// What nobody waits for any more is broken off, and not held; while somebody does, it
// goes on, whoever began it.
func TestWhatNobodyWaitsForIsBrokenOff(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		c := cache.New(100, letters)
		broken := 0
		slow := func(ctx context.Context) (string, error) {
			select {
			case <-time.After(time.Minute):
				return "slow", nil
			case <-ctx.Done():
				broken++
				return "cut", nil
			}
		}
		first, leave := context.WithCancel(t.Context())
		second := make(chan string)
		go func() {
			_, err := c.OfWhile(first, 1, slow)
			assert.ErrorIs(t, err, context.Canceled)
		}()
		synctest.Wait()
		go func() {
			v, err := c.OfWhile(t.Context(), 1, slow)
			assert.NoError(t, err)
			second <- v
		}()
		synctest.Wait()
		leave()
		require.Equal(t, "slow", <-second)
		require.Zero(t, broken)

		alone, leave := context.WithTimeout(t.Context(), time.Second)
		defer leave()
		_, err := c.OfWhile(alone, 2, slow)
		require.ErrorIs(t, err, context.DeadlineExceeded)
		synctest.Wait()
		require.Equal(t, 1, broken)
		_, ok := c.Get(2)
		require.False(t, ok, "what was cut is not remembered")
		v, err := c.OfWhile(t.Context(), 2, slow)
		require.NoError(t, err)
		require.Equal(t, "slow", v)
	})
}

func TestWhatPanicsDoesSoWhereItIsWaitedFor(t *testing.T) {
	c := cache.New(100, letters)
	require.PanicsWithValue(t, "no", func() { _, _ = c.GetOrMake(1, func() (string, error) { panic("no") }) })
	v, err := c.GetOrMake(1, func() (string, error) { return "yes", nil })
	require.NoError(t, err)
	require.Equal(t, "yes", v)
}
