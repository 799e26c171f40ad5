# frozen_string_literal: true

# Several processes, each loading the application after the fork: Polars computes under Ruby's global lock and must not
# be loaded before a fork. So nothing of the application is required here; `bin/estrel serve` has checked the settings
# and hands them over.
workers Integer(ENV.fetch("ESTREL_WEB_PROCESSES"))
threads 1, 5
bind "tcp://#{ENV.fetch("ESTREL_BIND")}:#{ENV.fetch("ESTREL_PORT")}"
worker_shutdown_timeout 5
environment "production"
# A file to import is the longest request there is.
http_content_length_limit Integer(ENV.fetch("ESTREL_UPLOAD_MB")) * 1_000_000
silence_single_worker_warning
