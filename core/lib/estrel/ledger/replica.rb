# frozen_string_literal: true

require "fileutils"
require "json"

module Estrel
  class Ledger
    # A ledger that takes its generations from another one, file by file, instead of being built. Files never change
    # under their names, so only new ones are fetched, and both answer the same; of pieces that are not held nothing is
    # fetched. One at a time, and nobody who builds beside it: the caller holds the locks.
    class Replica
      # @param directory [String]
      # @param held [Held] the pieces that are taken
      # @param aside [String, nil] where files of a generation to come may have been written here
      # @param kept [Numeric] seconds for which every generation is kept, for whoever is reading it
      def initialize(directory, held = Held::ALL, aside: nil, kept: 0)
        @directory = directory.to_s
        @held = held
        @place = Directory.new(@directory, seconds: kept)
        @fetch = Fetch.new(@directory, aside: aside)
        @checks = FileChecks.new(@directory)
      end

      # @param name [String] of a manifest
      # @return [Boolean] whether that is the current generation here, with all of its files
      def current?(name)
        Ledger.noted(@directory, CURRENT) == name && [name, read(name).base].compact.all? do |one|
          @checks.sizes?(read(one).written(@held))
        end
      rescue SystemCallError, JSON::ParserError, KeyError, TypeError, NoMethodError
        false
      end

      # Makes a generation of the other ledger the current one here. Nothing a reader can see changes before all of it
      # is there. One that was read from the store before the one here, and holds less, is left where it is.
      #
      # @param name [String] of its manifest
      # @yieldparam pieces [Array<Array(String, Integer)>] see {Fetch#run}
      # @yieldreturn [Array<String, nil>]
      # @return [String, nil] its name; nil where it was left
      # @raise [Missing] where it is gone before all of it has been taken
      # @raise [Damaged] where something is not as it was written
      def take(name, &)
        FileUtils.mkdir_p(@directory)
        manifests = with_base(name, &)
        return if older?(parsed(manifests.fetch(name)))

        written = manifests.values.map { |manifest| parsed(manifest).written(@held) }.reduce(:merge)
        @fetch.run(written, &)
        manifests.each { |one, manifest| @place.replace(one, manifest) }
        forget_others(name)
        @place.replace(CURRENT, name)
        @place.clear_old
        name
      end

      private

      # Than the one here, where that is of use. The clocks of two machines may differ, so time alone does not tell.
      def older?(manifest)
        name = Ledger.noted(@directory, CURRENT)
        return false unless name && current?(name)

        here = read(name).facts
        manifest.facts["read_at"].to_s < here["read_at"].to_s && less?(manifest.facts["marks"].to_h, here["marks"].to_h)
      end

      # Marks only grow, but for what is erased, which makes another one grow.
      def less?(marks, here)
        compared = here.map { |name, mark| marks[name].to_i <=> mark }
        compared.include?(-1) && !compared.include?(1)
      end

      # @return [Hash{String => String}] the manifest by its name, before it that of its base
      def with_base(name, &)
        raise Damaged, "#{name.inspect} names no generation" unless Generation::MANIFEST.match?(name)

        manifest = File.file?(path(name)) ? File.read(path(name)) : manifest(name, &)
        base = parsed(manifest).base
        { **(base ? with_base(base, &) : {}), name => manifest }
      rescue JSON::ParserError, KeyError, TypeError, NoMethodError
        raise Damaged, "#{name} cannot be read"
      end

      def manifest(name)
        content = "".b
        loop do
          bytes = yield([[name, content.bytesize]]).first or raise Missing, "#{name} is gone"
          content << bytes
          return content if bytes.bytesize < Fetch::CHUNK
        end
      end

      # Those that were built here, beside or after it.
      def forget_others(name)
        number = name[/\d+/].to_i
        others = @place.manifests.select { |one| one != name && one[/\d+/].to_i >= number }
        others.each { |one| FileUtils.rm_f(path(one)) }
      end

      def parsed(manifest) = Manifest.new(JSON.parse(manifest))

      def read(name) = Manifest.read(path(name))

      def path(file) = File.join(@directory, file)
    end
  end
end
