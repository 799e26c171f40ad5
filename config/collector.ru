# frozen_string_literal: true

require_relative "../server/lib/estrel_server"

EstrelServer::Store.connect
EstrelServer.eager_load
run EstrelServer::Collecting::Application
