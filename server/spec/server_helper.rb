# frozen_string_literal: true

require "fileutils"
require "tmpdir"

ROOT = File.expand_path("../..", __dir__)
ENV["ESTREL_VAR"] = File.join(ROOT, "var/test")
ENV["APP_ENV"] = "test"

require_relative "../lib/estrel_server"
Dir[File.join(__dir__, "support", "*.rb")].each { |file| require file }

# The server's specs run on a real MariaDB of their own, empty before every example.
RSpec.configure do |config|
  config.disable_monkey_patching!
  config.include ImportHelper
  database = EstrelServer::Database.new(EstrelServer.settings)
  pid = nil

  config.before(:suite) do
    pid = database.start unless database.reachable?
    EstrelServer::Store.connect
    EstrelServer::Store.migrate
    EstrelServer.eager_load
  end
  config.before do
    [EstrelServer::WriteKey, EstrelServer::Erasure, EstrelServer::ErasedIdentifier].each(&:delete_all)
    EstrelServer::Workspace.clear
    EstrelServer::Workspace.current.update!(time_zone: "UTC", visit_gap_minutes: 30, future_tolerance_minutes: 10)
    FileUtils.rm_rf([EstrelServer.settings.ledger_directory, EstrelServer.settings.exports_directory])
  end
  config.after(:suite) { database.stop(pid) if pid }
end
