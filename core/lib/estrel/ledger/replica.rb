# frozen_string_literal: true

require "fileutils"
require "json"

module Estrel
  class Ledger
    # A ledger that takes its generations from another one, file by file, instead of being built. Files never change
    # under their names, so only new ones are fetched, and both answer the same. One at a time, and nobody who builds
    # beside it: the caller holds the locks.
    class Replica
      # Bytes that are asked for at a time; whoever is asked gives as many, fewer only at the end of a file.
      CHUNK = 1 << 19
      FILE = /\A[A-Za-z0-9_-]+\.arrow\z/ # linear: one run
      private_constant :FILE

      # @param directory [String]
      def initialize(directory)
        @directory = directory.to_s
        @place = Directory.new(@directory)
        @checks = FileChecks.new(@directory)
      end

      # @param name [String] of a manifest
      # @return [Boolean] whether that is the current generation here, with all of its files
      def current?(name)
        Ledger.noted(@directory, CURRENT) == name && [name, read(name)["base"]].compact.all? do |one|
          @checks.sizes?(read(one).fetch("written"))
        end
      rescue SystemCallError, JSON::ParserError, KeyError
        false
      end

      # Makes a generation of the other ledger the current one here. Nothing a reader can see changes before all of it
      # is there.
      #
      # @param name [String] of its manifest
      # @yieldparam file [String] name of a file there
      # @yieldparam offset [Integer]
      # @yieldreturn [String, nil] the bytes that follow, {CHUNK} of them or up to the end; nil where there is no such
      #   file any more
      # @return [void]
      # @raise [Missing] where it is gone before all of it has been taken
      # @raise [Damaged] where something is not as it was written
      def take(name, &)
        FileUtils.mkdir_p(@directory)
        manifests = with_base(name, &)
        manifests.each_value { |manifest| fetch_files(JSON.parse(manifest), &) }
        manifests.each { |one, manifest| @place.replace(one, manifest) }
        forget_others(name)
        @place.replace(CURRENT, name)
        @place.clear_old
      end

      private

      # @return [Hash{String => String}] the manifest by its name, before it that of its base
      def with_base(name, &)
        raise Damaged, "#{name.inspect} names no generation" unless Generation::MANIFEST.match?(name)

        manifest = fetch(name, &)
        base = JSON.parse(manifest)["base"]
        { **(base ? with_base(base, &) : {}), name => manifest }
      rescue JSON::ParserError
        raise Damaged, "#{name} cannot be read"
      end

      def fetch_files(manifest, &)
        manifest.fetch("written").each do |file, as_written|
          next if File.size?(path(file)) == as_written.first
          raise Damaged, "#{file.inspect} names no file" unless FILE.match?(file)

          fetch_file(file, as_written, &)
        end
      end

      def fetch_file(file, as_written, &)
        part = "#{path(file)}.part"
        File.open(part, "wb") do |io|
          chunks(file, &).each { |bytes| io.write(bytes) }
          io.fsync
        end
        raise Damaged, "#{file} did not arrive as it was written" unless FileChecks.of(part) == as_written

        File.rename(part, path(file))
      ensure
        FileUtils.rm_f(part)
      end

      def fetch(file, &) = chunks(file, &).to_a.join

      def chunks(file)
        Enumerator.new do |found|
          offset = 0
          loop do
            bytes = yield(file, offset) or raise Missing, "#{file} is gone"
            found << bytes
            offset += bytes.bytesize
            break if bytes.bytesize < CHUNK
          end
        end
      end

      # Those that were built here, beside or after it.
      def forget_others(name)
        number = name[/\d+/].to_i
        others = @place.manifests.select { |one| one != name && one[/\d+/].to_i >= number }
        others.each { |one| FileUtils.rm_f(path(one)) }
      end

      def read(name) = JSON.parse(File.read(path(name)))

      def path(file) = File.join(@directory, file)
    end
  end
end
