package api

import (
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promauto"
)

var castsTotal = promauto.NewCounter(prometheus.CounterOpts{
	Name: "ironcast_casts_total",
	Help: "Projects cast and sent.",
})
