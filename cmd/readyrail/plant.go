package main

import (
	"context"
	"fmt"
	"net"
	"os"
	"os/signal"
	"sort"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"readyrail/internal/link/modbus"
	"readyrail/internal/plant"
)

func plantCommand() *cobra.Command {
	var addr string
	var seed uint64
	var speed float64
	c := &cobra.Command{Use: "plant", Short: "Run the stand-in plant alone", Args: cobra.NoArgs, RunE: func(*cobra.Command, []string) error {
		ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
		defer stop()
		if speed <= 0 || speed > 3600 {
			return fmt.Errorf("--speed %v: use more than 0 and at most 3600", speed)
		}
		return plant.New(seed, speed).Run(ctx, addr, func(a net.Addr) { fmt.Printf("Plant on %s\n", a) })
	}}
	c.Flags().StringVar(&addr, "modbus", "127.0.0.1:5020", "address to listen on")
	c.Flags().Uint64Var(&seed, "seed", 1, "seed of the noise")
	c.Flags().Float64Var(&speed, "speed", 30, "seconds of drying that pass in one second")
	c.AddCommand(faultCommand())
	return c
}

func faultCommand() *cobra.Command {
	var names []string
	for n := range plant.Faults {
		names = append(names, n)
	}
	sort.Strings(names)
	var addr string
	c := &cobra.Command{Use: "fault NAME|none", Short: "Inject a fault into a running plant: " + strings.Join(names, ", "), Args: cobra.ExactArgs(1), RunE: func(_ *cobra.Command, args []string) error {
		// One request sets the whole range, so that "none" clears every fault.
		bits := make([]bool, len(plant.Faults))
		if args[0] != "none" {
			coil, ok := plant.Faults[args[0]]
			if !ok {
				return fmt.Errorf("there is no fault %q: use one of %s, or none", args[0], strings.Join(names, ", "))
			}
			bits[coil-plant.FirstFault] = true
		}
		ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
		defer cancel()
		d := modbus.New(addr)
		if err := d.Connect(ctx); err != nil {
			return fmt.Errorf("no plant at %s: %w", addr, err)
		}
		defer d.Close()
		return d.WriteCoils(ctx, plant.KilnUnit, plant.FirstFault, bits, time.Second)
	}}
	c.Flags().StringVar(&addr, "modbus", "127.0.0.1:5020", "address of the plant")
	return c
}
