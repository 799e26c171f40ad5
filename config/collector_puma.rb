# frozen_string_literal: true

# One process, so that waiting for the disk is shared by all requests and a source's limit is one; many threads, since
# nearly all of their time is waiting. `bin/estrel collect` has checked the settings and hands them over.
threads 4, 32
environment "production"
bind "tcp://#{ENV.fetch("ESTREL_BIND")}:#{ENV.fetch("ESTREL_COLLECTOR_PORT")}"
