# frozen_string_literal: true

require_relative "../stand_in/lib/ferrowick_post"
require_relative "../server/lib/estrel_server"

# Beside Estrel's database, in one of its own.
database = EstrelServer::Database.new(EstrelServer.settings)
database.wait_until_reachable
FerrowickPost.connect(database.stand_in_connection)
FerrowickPost.eager_load
FerrowickPost::Returner.start
run FerrowickPost::App
