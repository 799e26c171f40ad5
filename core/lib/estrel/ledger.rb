# frozen_string_literal: true

module Estrel
  # The columnar copy of profiles and events that every calculation reads.
  #
  # A directory of uncompressed Arrow IPC files and one manifest per generation. `CURRENT` names the current manifest
  # and is replaced by an atomic rename, so a reader sees one whole generation or another, never half of each. The
  # directory may be deleted at any moment; the server rebuilds it.
  class Ledger
    # Raised when there is no generation to open.
    class Missing < Error; end

    # Raised for a generation of which something is missing or not as it was written.
    class Damaged < Error; end

    CURRENT = "CURRENT"
    # Names a manifest of a base for tails to come.
    PREPARED = "PREPARED"
    # Names what the files of such a base end with while they are written.
    PREPARING = "PREPARING"

    # @param directory [String] of a ledger
    # @param pointer [String] {CURRENT}, {PREPARED} or {PREPARING}
    # @return [String, nil] what it names
    def self.noted(directory, pointer)
      File.read(File.join(directory, pointer)).strip
    rescue Errno::ENOENT
      nil
    end

    # @return [String] path of the directory
    attr_reader :directory

    # @param directory [String, Pathname]
    # @param shelves [Boolean] whether what its parts answer is kept in files, see {Shelf}
    # @param held [Held] the pieces that are to be there
    # @param results [ResultCache] where what is computed from it is remembered; several ledgers may share one
    def initialize(directory, shelves: false, held: Held::ALL, results: ResultCache.new)
      @directory = directory.to_s.freeze
      @shelves = shelves
      @held = held
      @results = results
      @mutex = Mutex.new
      @checks = FileChecks.new(@directory)
    end

    # @return [Generation] the current generation; reopened only when it has changed since the last call. Where that
    #   one is damaged, the newest one before it that is whole
    # @raise [Missing]
    def current
      manifest = current_manifest
      @mutex.synchronize do
        next @generation if @current_name == manifest

        before = open_ones
        @generation = newest_whole(manifest)
        let_go(before)
        @current_name = manifest
        @generation
      end
    end

    # @param reference [Array(String, Array)] of a generation or what was made of one, see {Generation#reference}
    # @return [Readable] the same, in this process
    # @raise [Missing] where its files are gone
    def referred((name, steps))
      generation = @mutex.synchronize { @generation&.manifest_name == name ? @generation : named(name) }
      steps.reduce(generation) { |whole, (method, *given)| whole.public_send(method, *given) }
    rescue Damaged => e
      raise Missing, e.message
    end

    # @return [Boolean] whether there is a generation to open
    def any?
      !current.nil?
    rescue Missing
      false
    end

    # @return [String, nil] what is wrong with the current generation
    attr_reader :damage

    # Looks again whether the files of the current generation are there and as long as they were written. Where they
    # are not, the next call of {#current} opens another one.
    #
    # @return [Boolean]
    def intact?
      manifest = current_manifest_or_nil
      @mutex.synchronize do
        next false if manifest.nil? || (@damage && @current_name == manifest)
        next true if @current_name != manifest || @checks.sizes?(@generation.written)

        @checks.forget
        @current_name = nil
        false
      end
    end

    # @return [String, nil] name of the current manifest
    def current_manifest_or_nil = noted(CURRENT)

    # @return [Generation, nil] a base for tails to come that somebody has prepared
    def prepared
      name = noted(PREPARED) or return
      base = Generation.open(@directory, name)
      base if @checks.sizes?(base.written)
    rescue Damaged
      nil
    end

    # Forgets a base that has been prepared, where it has been taken up or is of no use.
    #
    # @param base [Generation]
    # @return [void]
    def forget(base)
      FileUtils.rm_f(File.join(@directory, PREPARED)) if noted(PREPARED) == base.manifest_name
    end

    private

    def noted(pointer) = self.class.noted(@directory, pointer)

    # The one referred to last is kept, with its base. Whoever refers to it has found its files whole.
    def named(name)
      found = with_base(@referred).find { |one| one.manifest_name == name }
      return found if found

      before = open_ones
      @referred = found_open(name) || opened(name)
      let_go(before)
      @referred
    end

    # @return [Generation, WithTail, nil]
    def found_open(name) = open_ones.find { |one| one.manifest_name == name }

    def open_ones = [@generation, @referred].flat_map { |one| with_base(one) }

    def with_base(one) = one.is_a?(WithTail) ? [one, one.base] : [one].compact

    # What is not open any more. Ruby does not see the memory behind data frames, so it would keep them for long; and
    # until the next time where a variable here still held a generation.
    #
    # @param before [Array<Generation, WithTail>] what was open
    def let_go(before)
      return if before.empty?

      (before - open_ones).each { |one| @results.forget(one.cache) }.clear
      before.clear
      GC.start
    end

    # @param name [String] of a manifest
    # @param checks [FileChecks, nil] nil where nothing is to be looked at
    # @return [Generation, WithTail]
    # @raise [Damaged]
    def opened(name, checks = nil)
      generation = read(name)
      generation = with_tail(generation) if generation.base_name
      checks&.check(generation.written)
      generation
    end

    def read(name)
      shelf = Shelf.new(@directory, name) if @shelves
      Generation.open(@directory, name, shelf: shelf, held: @held, cache: @results.until_forgotten)
    end

    # A base that is open stays so, with all that is remembered of it.
    def with_tail(tail)
      base = found_open(tail.base_name) || read(tail.base_name)
      WithTail.new(base, tail, tail.touched, tail.cache.within(:both), people: tail.manifest.fetch("people"))
    end

    def newest_whole(manifest)
      @damage = nil
      [manifest, *older(manifest)].each do |name|
        return opened(name, @checks)
      rescue Damaged => e
        @damage ||= e.message
      end
      raise Missing, "the ledger in #{@directory} is damaged: #{@damage}"
    end

    def older(manifest)
      numbered = Dir.children(@directory).grep(Generation::MANIFEST) - [manifest]
      numbered.sort_by { |name| -name[/\d+/].to_i }
    end

    def current_manifest
      current_manifest_or_nil or
        raise Missing, "there is no ledger in #{@directory}; build it with: bin/estrel ledger build"
    end
  end
end
