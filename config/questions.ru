# frozen_string_literal: true

require_relative "../server/lib/estrel_server"

EstrelServer::Database::Store.connect
EstrelServer::Database::Store.check
EstrelServer.eager_load
run EstrelServer::Application.questions
