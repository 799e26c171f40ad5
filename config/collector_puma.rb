# frozen_string_literal: true

# One process, so that waiting for the disk is shared by all requests and a source's limit is one; many threads, since
# nearly all of their time is waiting.
settings = EstrelServer.settings
threads 4, 32
environment "production"
# A body is not read before its key has been checked.
EstrelServer::BodyLimits.install(EstrelServer::BodyLimits::Collector.new)
bind "tcp://#{settings.bind}:#{settings.collector_port}"
