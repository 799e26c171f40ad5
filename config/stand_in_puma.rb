# frozen_string_literal: true

threads 1, 16
environment "production"
bind "tcp://127.0.0.1:#{ENV.fetch("ESTREL_STAND_IN_PORT")}"
