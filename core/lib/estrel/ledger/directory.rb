# frozen_string_literal: true

require "fileutils"

module Estrel
  class Ledger
    # The directory of a ledger, as whoever writes it knows it: which generations there are and what files they need.
    class Directory
      GENERATIONS_KEPT = 3

      # @param path [String]
      # @param seconds [Numeric] for which every generation is kept, beside the newest ones
      def initialize(path, seconds: 0)
        @path = path
        @seconds = seconds
      end

      # @return [Array<String>] names of all manifests
      def manifests = Dir.children(@path).grep(Generation::MANIFEST)

      # Puts a small file there, whole or not at all.
      #
      # @param name [String]
      # @param content [String]
      # @return [void]
      def replace(name, content)
        temporary = File.join(@path, ".#{name}.#{Process.pid}")
        File.open(temporary, "w") do |file|
          file.write(content)
          file.fsync
        end
        File.rename(temporary, File.join(@path, name))
        File.open(@path, &:fsync)
      end

      # Removes what neither the newest generations need nor anybody is about to write. A manifest that cannot be read
      # any more goes; what is being prepared stays.
      #
      # @return [void]
      def clear_old
        used = manifests.to_h { |name| [name, files_of(name)] }.compact
        kept = used.keys.max_by(GENERATIONS_KEPT) { |name| name[/\d+/].to_i }
        kept |= used.keys.select { |name| Time.now - File.mtime(File.join(@path, name)) < @seconds }
        kept |= [CURRENT, PREPARED].map { |pointer| Ledger.noted(@path, pointer) } & used.keys
        token = Ledger.noted(@path, PREPARING)
        used = used.values_at(*kept).flatten
        stale = Dir.children(@path).grep(/\.arrow\z/) + manifests - used - kept
        stale.reject! { |name| token && name.end_with?("-#{token}.arrow") }
        stale.each { |name| FileUtils.rm_f(File.join(@path, name)) }
        clear_shelves
      end

      private

      # What a generation needs: its files, and those of the one it is the tail of.
      def files_of(manifest)
        read = Manifest.read(File.join(@path, manifest))
        [*read.files, *(read.base && [read.base, *files_of(read.base)])]
      rescue SystemCallError, JSON::ParserError, KeyError, TypeError, NoMethodError
        nil
      end

      def clear_shelves
        left = manifests.map { |name| name.delete_suffix(".json") }
        shelves = Dir.children(@path).filter_map { |name| Shelf::NAME.match(name) }
        gone = shelves.reject { |shelf| left.include?(shelf[:generation]) }
        gone.each { |shelf| FileUtils.rm_rf(File.join(@path, shelf.to_s)) }
      end
    end
  end
end
