# frozen_string_literal: true

require "bootsnap"
# What set-up has compiled is read instead of compiled once more; what has changed since, or is not there, is not.
Bootsnap.setup(cache_dir: File.expand_path("../../vendor", __dir__), development_mode: false, readonly: true)

require_relative "../../core/lib/estrel"

require "active_record"
require "csv"
require "delayed_job_active_record"
require "etc"
require "fileutils"
require "securerandom"
require "socket"
require "trilogy"
require "zlib"

# Keeps and translates: the HTTP API, the store in MariaDB, importing, exporting and the command line.
# Calculates nothing; every number comes from the core.
module EstrelServer
  ROOT = File.expand_path("../..", __dir__)

  LOADER = Zeitwerk::Loader.new
  LOADER.push_dir(__dir__)
  LOADER.collapse(File.join(__dir__, "estrel_server/models"))
  LOADER.inflector.inflect("api" => "API", "cli" => "CLI", "sql" => "SQL")
  LOADER.setup
  private_constant :LOADER

  # A refusal the user can do something about; the message says what.
  class Error < StandardError; end

  # What only web processes and the command line need, which takes as long to load as everything else.
  INTERFACE = %w[access api application.rb cli].map { |name| File.join(__dir__, "estrel_server", name) }.freeze
  private_constant :INTERFACE

  # Loads every constant, so that a missing or misnamed file shows at once.
  #
  # @param interface [Boolean] whether also what only web processes need
  # @return [void]
  def self.eager_load(interface: true)
    LOADER.do_not_eager_load(*INTERFACE) unless interface
    LOADER.eager_load
  end

  # Tells the log and the figures what this process is.
  #
  # @param kind [String] as config/supervisor.conf names it
  # @return [void]
  def self.started_as(kind)
    Log.process = kind
    Log.everything = true
    Figures.register(kind)
  end

  # @return [Settings] from the environment, checked once
  def self.settings = Workspaces.current.settings

  # @return [Estrel::Ledger] shared by the threads of this process
  def self.ledger = Workspaces.current.ledger
end
