# frozen_string_literal: true

require_relative "../server/lib/estrel_server"

EstrelServer::Database::Store.connect
EstrelServer::Database::Store.check
EstrelServer.eager_load(interface: false)
EstrelServer.started_as("collector")
use EstrelServer::Figures::Requests
use EstrelServer::BodyLimits::Answering, EstrelServer::Collecting::Application::CORS
use EstrelServer::Workspaces::Chooser
run EstrelServer::Collecting::Application
