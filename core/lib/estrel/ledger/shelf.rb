# frozen_string_literal: true

require "digest"
require "fileutils"

module Estrel
  class Ledger
    # What parts of one generation have answered, in files beside it: for all processes of one edition, after a restart,
    # and, where it is the base of tails, after every refresh.
    class Shelf
      # Files kept; those used longest ago go first.
      MOST = 2_000
      NAME = /\Ashelf-(?<generation>generation-\d+-\h+)\z/ # linear: one run follows the other

      # @param directory [String] of the ledger
      # @param manifest_name [String] of the generation
      def initialize(directory, manifest_name)
        @directory = File.join(directory, "shelf-#{manifest_name.delete_suffix(".json")}")
      end

      # @param key [Object] plain data that names completely what is asked
      # @yieldreturn [Object] the answer, computed when there is none; kept where {Analyses::Sum.exact?}
      # @return [Object]
      def fetch(key)
        path = File.join(@directory, Digest::SHA256.hexdigest([EDITION, key].inspect))
        kept(path) || yield.tap { |found| keep(path, found) if Analyses::Sum.exact?(found) }
      end

      private

      def kept(path)
        Transit.load(File.binread(path)).tap { FileUtils.touch(path) }
      rescue SystemCallError, ArgumentError, TypeError
        nil # there is none, or it has gone meanwhile, or was cut short
      end

      # Where there is no place for it, it is computed again.
      def keep(path, found)
        FileUtils.mkdir_p(@directory)
        draft = "#{path}.#{Process.pid}.#{Thread.current.object_id}"
        File.binwrite(draft, Transit.dump(found))
        File.rename(draft, path)
        drop_oldest
      rescue SystemCallError
        nil
      end

      def drop_oldest
        files = Dir.children(@directory).map { |name| File.join(@directory, name) }
        return if files.size <= 2 * MOST

        FileUtils.rm_f(files.sort_by { |path| File.mtime(path) }.first(files.size - MOST))
      end
    end
  end
end
