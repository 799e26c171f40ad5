# frozen_string_literal: true

# Several processes, since Polars computes under Ruby's global lock. The application is loaded before the fork, as that
# is done once then; Polars starts its threads, which would not survive one, with the first question.
settings = EstrelServer.settings
workers settings.web_processes
preload_app!
threads 1, 5
before_worker_boot { EstrelServer.started_as("web") }
bind "tcp://#{settings.bind}:#{settings.port}"
worker_shutdown_timeout 5
environment "production"
# A body is not read before it is known who sends it.
EstrelServer::BodyLimits.install(EstrelServer::BodyLimits::Web.new(settings))
silence_single_worker_warning
