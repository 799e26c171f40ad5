# frozen_string_literal: true

require "date"
require "json"
require "set" # polars expects it loaded on this Ruby
require "digest"
require "monitor"
require "did_you_mean"
# The allocator of data frames gives back after a second what is free, not only when it is next asked for some.
ENV["_RJEM_MALLOC_CONF"] ||= "background_thread:true,dirty_decay_ms:1000,muzzy_decay_ms:0"
require "polars"
require "tzinfo"
require "json_schemer"
require "zeitwerk"

# The rules of lifecycle marketing and all computation on profiles and event histories.
#
# Plain Ruby on Polars data frames: no web, no database, no files but the ledger's. Everything starts from an opened
# {Estrel::Ledger}: {Estrel::Lifecycle} tells the states of its people, {Estrel::Audience::Evaluator} tells who fits
# an audience definition.
#
# Conventions used throughout: an *instant* is an Integer of microseconds since 1970-01-01 UTC; a *day number* is an
# Integer of days since 1970-01-01 in the reporting time zone; public methods take and return `Date` for days.
module Estrel
  # Any refusal the core makes on purpose. The message says what is wrong and what to do.
  class Error < StandardError; end

  # Names the code that computes: what other code has computed and kept may be told otherwise, or be of another shape.
  EDITION = Digest::SHA256.hexdigest(Dir[File.join(__dir__, "**/*.*")].map { |file| File.read(file) }.join).freeze

  LOADER = Zeitwerk::Loader.new
  LOADER.push_dir(__dir__)
  LOADER.setup
  private_constant :LOADER

  # @return [void] load every constant, so that a missing or misnamed file shows at once
  def self.eager_load = LOADER.eager_load
end
