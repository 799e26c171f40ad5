# frozen_string_literal: true

# Several processes, since lists are computed here, and Polars computes under Ruby's global lock. Most threads wait for
# heavy questions, which other processes answer, see EstrelServer::Answers::Turns. The application is loaded once,
# before the fork. Polars starts its threads, which would not survive a fork, with the first question.
settings = EstrelServer.settings
workers settings.web_processes
preload_app!
threads 1, 16
before_worker_boot do
  EstrelServer.started_as("web")
  EstrelServer::Answers::Pool.for_lists = true
end
bind "tcp://#{settings.bind}:#{settings.port}"
worker_shutdown_timeout 5
environment "production"
# A body is not read before it is known who sends it.
EstrelServer::BodyLimits.install(EstrelServer::BodyLimits::Web.new(settings))
silence_single_worker_warning
