package plant

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"net"
	"time"

	"github.com/mochi-mqtt/server/v2/hooks/auth"

	"readyrail/internal/broker"
)

// Topics of the weather station.
const (
	WeatherTopic = "larchmoor/weather"
	StatusTopic  = "larchmoor/weather/status" // "online" or "offline", retained
)

// weather is the station on the roof.
type weather struct {
	noise              *rand.Rand
	hours              float64
	temperature, humid float64
	wind, gust         float64
}

func newWeather(noise *rand.Rand) *weather {
	return &weather{noise: noise, hours: 8, temperature: 6, humid: 74, wind: 3}
}

// advance moves by dt seconds of the day.
func (w *weather) advance(dt float64) {
	w.hours = math.Mod(w.hours+dt/3600, 24)
	day := math.Sin((w.hours - 9) / 24 * 2 * math.Pi)
	w.temperature += (7 + 5*day - w.temperature) * math.Min(1, dt/1800)
	w.humid += (72 - 14*day - w.humid) * math.Min(1, dt/1800)
	w.gust += (w.noise.NormFloat64()*1.6 - w.gust) * math.Min(1, dt/20)
	w.wind = math.Max(0, 3.4+w.gust)
}

func (p *Plant) weatherPayload() []byte {
	p.mu.Lock()
	defer p.mu.Unlock()
	w := p.weather
	round := func(f float64) float64 { return math.Round(f*10) / 10 }
	b, _ := json.Marshal(map[string]any{"outside": map[string]any{"temperature": round(w.temperature), "humidity": round(w.humid)},
		"wind": map[string]any{"speed": round(w.wind)}, "station": "roof, north"})
	return b
}

// serveWeather runs the station's broker until the context ends and publishes
// once a second.
func (p *Plant) serveWeather(ctx context.Context, addr string, ready func(string, net.Addr)) error {
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return fmt.Errorf("the weather station cannot listen on %s: %w", addr, err)
	}
	b, err := broker.Serve(l, new(auth.AllowHook), nil)
	if err != nil {
		return fmt.Errorf("the weather station: %w", err)
	}
	defer b.Close()
	if ready != nil {
		ready("MQTT", l.Addr())
	}
	if err := b.Publish(StatusTopic, []byte("online"), true, 1); err != nil {
		return err
	}
	tick := time.NewTicker(time.Second)
	defer tick.Stop()
	for {
		if err := b.Publish(WeatherTopic, p.weatherPayload(), true, 0); err != nil {
			return err
		}
		select {
		case <-ctx.Done():
			return nil
		case <-tick.C:
		}
	}
}
