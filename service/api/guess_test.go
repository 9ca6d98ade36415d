package api_test

import (
	"bufio"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"celandine/service"
	"celandine/service/servicetest"
)

// attempt signs somebody in from an address, as a proxy tells it, in a browser that holds some cookies.
func attempt(t *testing.T, s *servicetest.Service, from, login, password string, cookies ...*http.Cookie) *http.Response {
	r, err := http.NewRequest("POST", s.URL+"/api/session", strings.NewReader(fmt.Sprintf(`{"login":%q,"password":%q}`, login, password)))
	require.NoError(t, err)
	r.Header.Set("Content-Type", "application/json")
	if from != "" {
		r.Header.Set("X-Forwarded-For", "203.0.113.99, "+from)
	}
	for _, c := range cookies {
		r.AddCookie(c)
	}
	answer, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	require.NoError(t, answer.Body.Close())
	return answer
}

// through lets a service believe proxies on loopback, and takes three wrong attempts from an address for many.
func through(c *service.Config) {
	c.SignIns = 3
	c.Proxies = []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}
}

// Behind a school's one address somebody guesses at a pupil's login. The guesser soon waits, and from then on longer each time;
// everybody else signs in there, and the pupil does in a browser in which they did before.
func TestGuessingIsStopped(t *testing.T) {
	s := servicetest.Start(t, true, through)
	const school = "198.51.100.7"
	own := attempt(t, s, school, "ana", servicetest.Password)
	require.Equal(t, 200, own.StatusCode)
	var last int
	for n, status := range []int{401, 401, 401, 401, 429} {
		answer := attempt(t, s, school, "ana", fmt.Sprint("guess ", n))
		assert.Equal(t, status, answer.StatusCode, "guess %d", n)
		_, _ = fmt.Sscan(answer.Header.Get("Retry-After"), &last)
	}
	assert.Greater(t, last, 10, "the address has guessed too often")
	assert.Equal(t, 429, attempt(t, s, school, "ana", servicetest.Password).StatusCode, "a right guess is not told from a wrong one")
	assert.Equal(t, 429, attempt(t, s, "198.51.100.8", "ana", "guess").StatusCode, "nor from elsewhere")
	assert.Equal(t, 429, attempt(t, s, school, "Ana", "guess").StatusCode, "however it is written")

	assert.Equal(t, 200, attempt(t, s, school, "ben", servicetest.Password).StatusCode, "others sign in")
	assert.Equal(t, 200, attempt(t, s, school, "ana", servicetest.Password, own.Cookies()...).StatusCode,
		"and the pupil, in their own browser")
}

// A login that nobody has is waited for as others are, so that nobody learns which there are; so is a class that signs in at
// once no guesser.
func TestGuessingTellsNoLogins(t *testing.T) {
	s := servicetest.Start(t, true, func(c *service.Config) { c.SignIns = 1000 })
	for _, login := range []string{"ana", "nobody"} {
		var got []int
		for range 6 {
			got = append(got, attempt(t, s, "", login, "guess").StatusCode)
		}
		assert.Equal(t, []int{401, 401, 401, 401, 401, 429}, got, login)
	}
	var class errgroup.Group
	for range 30 {
		class.Go(func() error {
			if status := attempt(t, s, "", "ben", servicetest.Password).StatusCode; status != 200 {
				return fmt.Errorf("a right password got %d", status)
			}
			return nil
		})
	}
	require.NoError(t, class.Wait())
}

// Many guesses at once are no more than one after the other.
func TestGuessesAtOnce(t *testing.T) {
	s := servicetest.Start(t, true, func(c *service.Config) { c.SignIns = 1000 })
	statuses := make(chan int, 50)
	for range cap(statuses) {
		go func() { statuses <- attempt(t, s, "", "ana", "guess").StatusCode }()
	}
	looked := 0
	for range cap(statuses) {
		if <-statuses == 401 {
			looked++
		}
	}
	assert.LessOrEqual(t, looked, 6)
}

// A stranger whose body trickles in, or is large, keeps nobody from signing in.
func TestSlowStrangers(t *testing.T) {
	s := servicetest.Start(t, true)
	address := strings.TrimPrefix(s.URL, "http://")
	for range 50 {
		conn, err := net.Dial("tcp", address)
		require.NoError(t, err)
		defer conn.Close()
		_, err = fmt.Fprint(conn, "POST /api/session HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nContent-Length: 100\r\n\r\n{")
		require.NoError(t, err)
	}
	assert.Equal(t, 200, attempt(t, s, "", "ana", servicetest.Password).StatusCode)
	assert.Equal(t, 413, attempt(t, s, "", "ana", strings.Repeat("x", 9<<10)).StatusCode)
}

// Of a body of somebody unknown nothing is read.
func TestUnknownBodiesAreNotRead(t *testing.T) {
	s := servicetest.Start(t, true)
	conn, err := net.Dial("tcp", strings.TrimPrefix(s.URL, "http://"))
	require.NoError(t, err)
	defer conn.Close()
	_, err = fmt.Fprint(conn, "POST /api/exercises/mist-hold-in/handins HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\n"+
		"Content-Length: 2000000\r\n\r\n")
	require.NoError(t, err)
	require.NoError(t, conn.SetReadDeadline(time.Now().Add(servicetest.Patience)))
	answer, err := http.ReadResponse(bufio.NewReader(conn), nil)
	require.NoError(t, err)
	defer answer.Body.Close()
	assert.Equal(t, 401, answer.StatusCode)
}

// Without a proxy nobody can say that they come from elsewhere.
func TestForwardingIsNotBelievedOfAnybody(t *testing.T) {
	s := servicetest.Start(t, true, func(c *service.Config) { c.SignIns = 3 })
	for n, login := range []string{"ana", "ben", "chiara"} {
		assert.Equal(t, 401, attempt(t, s, fmt.Sprintf("198.51.100.%d", n), login, "wrong").StatusCode)
	}
	assert.Equal(t, 401, attempt(t, s, "198.51.100.9", "dmitri", "wrong").StatusCode)
	assert.Equal(t, 429, attempt(t, s, "198.51.100.10", "dmitri", "wrong").StatusCode, "all were one address, which is known for guessing")
}

func TestHTTPS(t *testing.T) {
	for _, https := range []bool{false, true} {
		s := servicetest.Start(t, true, func(c *service.Config) { c.HTTPS = https })
		answer := attempt(t, s, "", "ana", servicetest.Password)
		require.Len(t, answer.Cookies(), 2)
		for _, c := range answer.Cookies() {
			assert.Equal(t, https, c.Secure, c.Name)
			assert.True(t, c.HttpOnly, c.Name)
			assert.Equal(t, http.SameSiteLaxMode, c.SameSite, c.Name)
		}
		assert.Equal(t, https, answer.Header.Get("Strict-Transport-Security") != "")
		assert.Contains(t, answer.Header.Get("Content-Security-Policy"), "script-src 'self'")
	}
}
