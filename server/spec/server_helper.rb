# frozen_string_literal: true

require "fileutils"
require "socket"
require "tmpdir"

ROOT = File.expand_path("../..", __dir__)
ENV["APP_ENV"] = "test"
ENV["ESTREL_PUSH_PAUSE_MS"] = "1"
ENV["ESTREL_DEMO"] = "off"
# Where the stand-in would listen; a receiver of the specs does.
ENV["ESTREL_STAND_IN_PORT"] = Addrinfo.tcp("127.0.0.1", 0).bind { |socket| socket.local_address.ip_port }.to_s

require_relative "../../core/spec/support/checks"
require_relative "../../core/spec/support/held_up"
require_relative "../lib/estrel_server"
require_relative "support/scratch"
# Suites that run side by side have a database each.
ENV["ESTREL_VAR"] = Scratch.place(ENV.fetch("ESTREL_SUITE", "test"))
Dir[File.join(__dir__, "support", "*.rb")].each { |file| require file unless file.end_with?("zygote.rb") }

# The server's specs run on a real MariaDB of their own, empty before every example.
RSpec.configure do |config|
  config.disable_monkey_patching!
  config.include ImportHelper
  database = TestDatabase.new(EstrelServer.settings)

  config.before(:suite) do
    unless database.reachable?
      pid = database.start
      own = Process.pid # not that of a process forked from this one
      at_exit { database.stop(pid) if Process.pid == own }
    end
    EstrelServer::Database::Store.connect
    EstrelServer::Database::Store.migrate
    EstrelServer.eager_load
    ActiveModel::SecurePassword.min_cost = true
  end
  config.before do
    [EstrelServer::SendingKey, EstrelServer::Erasure, EstrelServer::ErasedIdentifier].each(&:delete_all)
    [EstrelServer::Audience, EstrelServer::RuleSet, EstrelServer::Export].each { |owned| owned.update_all(owner_id: nil) }
    EstrelServer::Account.delete_all
    FileUtils.rm_rf(File.join(EstrelServer.settings.var, "attempts"))
    EstrelServer::Fault.delete_all
    EstrelServer::Workspace.clear
    EstrelServer::Workspace.current.update!(time_zone: "UTC", visit_gap_minutes: 30, future_tolerance_minutes: 10, messaging: nil, kept_months: nil, events_from: nil, events_removed_before: nil)
    FileUtils.rm_rf(%i[ledger_directory exports_directory answers_directory uploads_directory].map { |name| EstrelServer.settings.public_send(name) })
  end
end
