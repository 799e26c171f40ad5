# frozen_string_literal: true

# Started as a process of its own by {CrashStack}: has everything loaded, is connected to nothing, and forks a worker or the
# messaging stand-in whenever a line on its standard input asks for one, so that a process can be killed and be back in
# milliseconds. Answers each line with the process id.
require_relative "../../lib/estrel_server"
require_relative "../../../stand_in/lib/ferrowick_post"
require "puma"

# Models are told of their tables once; a fork connects anew.
EstrelServer::Database::Store.connect
EstrelServer.eager_load
FerrowickPost.connect(EstrelServer::Database.new(EstrelServer.settings).stand_in_connection)
FerrowickPost.eager_load
[EstrelServer, FerrowickPost].each { |place| place.constants.map { |name| place.const_get(name) }.grep(Class).select { |model| model < ActiveRecord::Base && !model.abstract_class? }.each(&:columns_hash) }
ActiveRecord::Base.connection_handler.clear_all_connections!(:all)

def stand_in
  FerrowickPost::Returner.start
  server = Puma::Server.new(FerrowickPost::App)
  server.add_tcp_listener("127.0.0.1", EstrelServer.settings.stand_in_port)
  server.run.join
end

$stdin.each_line(chomp: true) do |line|
  role, slot = line.split
  pid = fork do
    $stdin.close
    role == "worker" ? EstrelServer::Workers::Worker.new("exports", slot).run : stand_in
  end
  Process.detach(pid)
  $stdout.puts(pid)
  $stdout.flush
end
