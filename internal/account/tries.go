package account

import (
	"crypto/subtle"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/time/rate"
)

// tries bounds how often secrets are guessed at (house): of one person from one address
// five at once and one each twelve seconds; of one person from anywhere, thirty and one
// each two seconds; from one address for anybody, forty and one a second.
type tries struct {
	pair, person, address *lru.Cache[string, *rate.Limiter]
}

// remembered is how many names and addresses are told apart at once.
const remembered = 10_000

func newTries() *tries {
	t := &tries{}
	for _, c := range []**lru.Cache[string, *rate.Limiter]{&t.pair, &t.person, &t.address} {
		*c, _ = lru.New[string, *rate.Limiter](remembered) // a size over 0 cannot fail
	}
	return t
}

func (t *tries) take(who, from string) bool {
	return allow(t.address, from, time.Second, 40) && allow(t.pair, who+"\x00"+from, 12*time.Second, 5) && allow(t.person, who, 2*time.Second, 30)
}

// right forgets the wrong tries of a person from an address.
func (t *tries) right(who, from string) { t.pair.Remove(who + "\x00" + from) }

func allow(c *lru.Cache[string, *rate.Limiter], key string, each time.Duration, burst int) bool {
	l := rate.NewLimiter(rate.Every(each), burst)
	if old, was, _ := c.PeekOrAdd(key, l); was {
		l = old
		c.Get(key) // used just now
	}
	return l.Allow()
}

func equal(a, b string) bool { return subtle.ConstantTimeCompare([]byte(a), []byte(b)) == 1 }
