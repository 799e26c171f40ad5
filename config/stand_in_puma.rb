# frozen_string_literal: true

threads 1, 16
environment "production"
bind "tcp://127.0.0.1:#{EstrelServer.settings.stand_in_port}"
