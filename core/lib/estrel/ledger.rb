# frozen_string_literal: true

module Estrel
  # The columnar copy of profiles and events that every calculation reads.
  #
  # A directory of uncompressed Arrow IPC files and one manifest per generation. `CURRENT` names the manifest in force
  # and is replaced by an atomic rename, so a reader sees one whole generation or another, never half of each. The
  # directory may be deleted at any moment; the server rebuilds it.
  class Ledger
    # Raised when there is no generation to open.
    class Missing < Error; end

    CURRENT = "CURRENT"

    # @return [String] path of the directory
    attr_reader :directory

    # @param directory [String, Pathname]
    def initialize(directory)
      @directory = directory.to_s.freeze
      @mutex = Mutex.new
    end

    # @return [Generation] the generation in force; reopened only when it has changed since the last call
    # @raise [Missing]
    def current
      manifest = current_manifest
      @mutex.synchronize do
        @generation&.manifest_name == manifest ? @generation : replace(Generation.open(@directory, manifest))
      end
    end

    # @return [String, nil] name of the manifest in force
    def current_manifest_or_nil
      File.read(File.join(@directory, CURRENT)).strip
    rescue Errno::ENOENT
      nil
    end

    private

    # Ruby does not see the memory behind data frames, so it would keep a replaced generation's results for long.
    def replace(generation)
      replaced = @generation
      @generation = generation
      GC.start if replaced
      generation
    end

    def current_manifest
      current_manifest_or_nil or
        raise Missing, "there is no ledger in #{@directory}; build it with: bin/estrel ledger build"
    end
  end
end
