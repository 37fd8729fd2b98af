package idle

import (
	"net/http"
	"net/http/httptest"
	"testing"
	"time"
)

// TestWatch checks that rest is called once nobody asks any more, not while a
// request is answered, and again after the next one.
func TestWatch(t *testing.T) {
	const quiet = 30 * time.Millisecond
	rested := make(chan time.Time, 10)
	var answered time.Time
	h := Watch(http.HandlerFunc(func(http.ResponseWriter, *http.Request) {
		time.Sleep(4 * quiet)
		answered = time.Now()
	}), quiet, func() { rested <- time.Now() })
	<-rested // nobody has asked at all
	for range 2 {
		h.ServeHTTP(httptest.NewRecorder(), httptest.NewRequest("GET", "/", nil))
		if at := <-rested; at.Sub(answered) < quiet {
			t.Errorf("rested %s after an answer", at.Sub(answered))
		}
	}
	select {
	case <-rested:
		t.Error("rested twice after one request")
	case <-time.After(4 * quiet):
	}
	line := httptest.NewRequest("GET", "/", nil)
	line.Header.Set("Upgrade", "websocket")
	h.ServeHTTP(httptest.NewRecorder(), line)
	if at := <-rested; !at.Before(answered) {
		t.Error("a line that is open was waited for")
	}
}
