package account

import (
	"crypto/subtle"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/time/rate"
)

// From is where somebody comes from who is to be known again.
type From struct {
	Address string
	Device  string // mark of the browser; empty of one that has none
	Session string // id of the person who is signed in there, if anybody is
}

// tries bounds how often secrets are guessed at (house): of one person from one address, or
// from one device, five at once and one each twelve seconds; of one person by whoever was
// never known here, thirty and one each two seconds; from one address for anybody, forty and
// one a second. A device from which somebody was known before, and a session of theirs, are
// not held up by what strangers try.
type tries struct {
	pair, person, address *lru.Cache[string, *rate.Limiter]
	known                 *lru.Cache[string, bool]
}

// remembered is how many names and addresses are told apart at once.
const remembered = 10_000

func newTries() *tries {
	t := &tries{}
	for _, c := range []**lru.Cache[string, *rate.Limiter]{&t.pair, &t.person, &t.address} {
		*c, _ = lru.New[string, *rate.Limiter](remembered) // a size over 0 cannot fail
	}
	t.known, _ = lru.New[string, bool](remembered)
	return t
}

// key tells apart from where a person is guessed at.
func (t *tries) key(who string, from From) (key string, familiar bool) {
	if from.Session != "" && from.Session == who {
		return who + "\x00session", true
	}
	if d := who + "\x00device\x00" + from.Device; from.Device != "" && t.known.Contains(d) {
		return d, true
	}
	return who + "\x00address\x00" + from.Address, false
}

func (t *tries) take(who string, from From) bool {
	key, familiar := t.key(who, from)
	if familiar {
		return allow(t.pair, key, 12*time.Second, 5)
	}
	return allow(t.address, from.Address, time.Second, 40) && allow(t.pair, key, 12*time.Second, 5) && allow(t.person, who, 2*time.Second, 30)
}

// right forgets the wrong tries of a person from there, and knows the device from then on.
func (t *tries) right(who string, from From) {
	key, _ := t.key(who, from)
	t.pair.Remove(key)
	if from.Device != "" {
		t.known.Add(who+"\x00device\x00"+from.Device, true)
	}
}

func allow(c *lru.Cache[string, *rate.Limiter], key string, each time.Duration, burst int) bool {
	l := rate.NewLimiter(rate.Every(each), burst)
	if old, was, _ := c.PeekOrAdd(key, l); was {
		l = old
		c.Get(key) // used just now
	}
	return l.Allow()
}

func equal(a, b string) bool { return subtle.ConstantTimeCompare([]byte(a), []byte(b)) == 1 }
