# frozen_string_literal: true

require "fileutils"

module Estrel
  class Ledger
    # Brings files into the directory of a ledger from another machine, whole and as they were written there. Nobody
    # sees them before all of them are there.
    class Fetch
      # Bytes that are asked for at a time; whoever is asked gives as many, fewer only at the end of a file.
      CHUNK = 1 << 19
      # Bytes that are asked for at once, in as many files as it takes, since the way there and back takes longer than
      # sending them.
      AT_ONCE = 16 * CHUNK
      FILE = /\A[A-Za-z0-9_-]+\.arrow\z/ # linear: one run
      private_constant :AT_ONCE, :FILE

      # @param directory [String]
      # @param aside [String, nil] where some may lie already, written on this machine
      def initialize(directory, aside: nil)
        @directory = directory
        @aside = aside
      end

      # @param written [Hash{String => Array(Integer, Integer)}] names of files to size and checksum
      # @yieldparam pieces [Array<Array(String, Integer)>] names of files there, and where in them to begin
      # @yieldreturn [Array<String, nil>] the bytes that follow of each, {CHUNK} of them or up to the end; nil where
      #   there is no such file any more
      # @return [void]
      # @raise [Missing] where one is gone there
      # @raise [Damaged] where one is not as it was written
      def run(written, &)
        written.each_key { |file| raise Damaged, "#{file.inspect} names no file" unless FILE.match?(file) }
        absent = written.reject { |file, as_written| there?(file, as_written) }
        batches(absent).each { |some| write(some, yield(some)) }
        absent.each { |file, as_written| check(file, as_written) }
        absent.each_key { |file| File.rename(part(file), path(file)) }
      ensure
        absent&.each_key { |file| FileUtils.rm_f(part(file)) }
      end

      private

      def there?(file, as_written) = File.size?(path(file)) == as_written.first || aside?(file, as_written)

      def aside?(file, as_written)
        lying = @aside && File.join(@aside, file)
        return false unless lying && File.size?(lying) == as_written.first && FileChecks.of(lying) == as_written

        File.rename(lying, path(file))
        true
      rescue Errno::ENOENT
        false # cleared away meanwhile
      end

      def batches(written)
        pieces = written.flat_map { |file, (size, _)| (0...size).step(CHUNK).map { |offset| [file, offset, size] } }
        asked = AT_ONCE
        pieces.each_with_object([]) do |(file, offset, size), batches|
          if asked >= AT_ONCE
            batches << []
            asked = 0
          end
          batches.last << [file, offset]
          asked += [size - offset, CHUNK].min
        end
      end

      # Under names of their own until all of them are there.
      def write(pieces, contents)
        pieces.zip(contents) do |(file, offset), bytes|
          raise Missing, "#{file} is gone" if bytes.nil?

          File.open(part(file), File::WRONLY | File::CREAT | File::BINARY) do |io|
            io.seek(offset)
            io.write(bytes)
          end
        end
      end

      def check(file, as_written)
        File.open(part(file), &:fsync)
        raise Damaged, "#{file} did not arrive as it was written" unless FileChecks.of(part(file)) == as_written
      end

      def part(file) = "#{path(file)}.part"

      def path(file) = File.join(@directory, file)
    end
  end
end
