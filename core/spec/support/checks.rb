# frozen_string_literal: true

require "zlib"

# How much is checked, and by which random numbers: every run checks a part of what `bin/test --all` does, and
# `bin/test --seed N` repeats a run.
module Checks
  # Whether what belongs in a nightly run is checked, too.
  def self.all? = ENV["ESTREL_CHECKS"] == "all"

  # @param whole [Integer] how many there are in a nightly run
  # @param every_run [Integer] how many in every run
  # @return [Array<Integer>] seeds that depend on the place of the call and the seed of the run
  def self.seeds(whole, every_run: whole)
    random = Random.new(RSpec.configuration.seed + Zlib.crc32(place(caller_locations(1, 1))))
    Array.new(all? ? whole : every_run) { random.rand(1 << 32) }
  end

  # @return [Integer] one such seed
  def self.seed
    Random.new(RSpec.configuration.seed + Zlib.crc32(place(caller_locations(1, 1)))).rand(1 << 32)
  end

  def self.place(locations) = "#{File.basename(locations.first.path)}:#{locations.first.lineno}"
  private_class_method :place
end

RSpec.configure { |config| config.filter_run_excluding(nightly: true) unless Checks.all? }
