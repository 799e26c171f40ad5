# frozen_string_literal: true

require "active_record"
require "digest"
require "json"
require "net/http"
require "securerandom"
require "sinatra/base"
require "standardwebhooks"
require "trilogy"
require "zeitwerk"

# Ferrowick Post, a pretend messaging service: takes people over a signed webhook, "sends" each a message, and tells the
# collector what became of it. No message leaves the machine. It keeps a record of its own, knows nothing of Estrel but
# the published formats, and misbehaves on request.
module FerrowickPost
  LOADER = Zeitwerk::Loader.new
  LOADER.push_dir(File.join(__dir__, "ferrowick_post"), namespace: self)
  LOADER.setup
  private_constant :LOADER

  module_function

  # @return [void]
  def eager_load = LOADER.eager_load

  # @param connection [Hash] of Active Record; the database is made where there is none
  # @return [void]
  def connect(connection)
    Record.establish_connection(connection)
    Record.prepare
  end
end
