package main

import (
	"context"
	"fmt"
	"net"
	"os"
	"os/signal"
	"sort"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"readyrail/internal/core/device"
	"readyrail/internal/link"
	"readyrail/internal/link/modbus"
	"readyrail/internal/plant"
)

func plantCommand() *cobra.Command {
	var at plant.Addresses
	var seed uint64
	var speed float64
	c := &cobra.Command{Use: "plant", Short: "Run the stand-in plant alone", Args: cobra.NoArgs, RunE: func(*cobra.Command, []string) error {
		ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
		defer stop()
		if speed <= 0 || speed > 3600 {
			return fmt.Errorf("--speed %v: use more than 0 and at most 3600", speed)
		}
		return plant.New(seed, speed).Run(ctx, at, func(protocol string, a net.Addr) { fmt.Printf("Plant on %s, %s\n", a, protocol) })
	}}
	plantFlags(c, &at)
	c.Flags().Uint64Var(&seed, "seed", 1, "seed of the noise")
	c.Flags().Float64Var(&speed, "speed", 30, "seconds of drying that pass in one second")
	c.AddCommand(faultCommand())
	return c
}

// plantFlags are the addresses of the plant's devices.
func plantFlags(c *cobra.Command, at *plant.Addresses) {
	c.Flags().StringVar(&at.Modbus, "modbus", "127.0.0.1:5020", "address of KilnPLC and CarPLC")
	c.Flags().StringVar(&at.OPCUA, "opcua", "127.0.0.1:4850", "address of the meter")
	c.Flags().StringVar(&at.MQTT, "mqtt", "127.0.0.1:1893", "address of the weather station's broker")
}

func faultCommand() *cobra.Command {
	var names []string
	for n := range plant.Faults {
		names = append(names, n)
	}
	sort.Strings(names)
	var addr string
	c := &cobra.Command{Use: "fault NAME|none", Short: "Inject a fault into a running plant: " + strings.Join(names, ", "),
		Args: cobra.ExactArgs(1), RunE: func(_ *cobra.Command, args []string) error {
			// One request sets the whole range, so that "none" clears every fault.
			bits := make([]bool, len(plant.Faults))
			if args[0] != "none" {
				coil, ok := plant.Faults[args[0]]
				if !ok {
					return fmt.Errorf("there is no fault %q: use one of %s, or none", args[0], strings.Join(names, ", "))
				}
				bits[coil-plant.FirstFault] = true
			}
			d := device.New()
			host, port, err := net.SplitHostPort(addr)
			if err == nil {
				d.Host = host
				d.Port, err = strconv.Atoi(port)
			}
			if err != nil {
				return fmt.Errorf("--modbus %s: write host:port", addr)
			}
			ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
			defer cancel()
			driver := modbus.New(d, link.Env{}, link.NewMeters())
			if err := driver.Connect(ctx); err != nil {
				return fmt.Errorf("no plant at %s: %w", addr, err)
			}
			defer driver.Close()
			return driver.WriteCoils(ctx, plant.KilnUnit, plant.FirstFault, bits, time.Second)
		}}
	c.Flags().StringVar(&addr, "modbus", "127.0.0.1:5020", "address of the plant")
	return c
}
