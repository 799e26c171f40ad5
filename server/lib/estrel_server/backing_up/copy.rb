# frozen_string_literal: true

require "digest"

module EstrelServer
  module BackingUp
    # A directory with everything that cannot be made anew: the database as SQL, files that wait to be imported or were
    # exported, the same of each other workspace under `workspaces`, and `manifest.json`, which says what belongs to it.
    # The ledgers and what is computed from them are not in it.
    class Copy
      FORMAT = 2
      # Those before knew one workspace.
      READ = [1, FORMAT].freeze
      SQL = "database.sql.gz"
      MANIFEST = "manifest.json"
      # Directories under `var` that are kept.
      KEPT = %w[uploads exports outbox].freeze

      # @return [String]
      attr_reader :directory

      # @param directory [String]
      def initialize(directory)
        @directory = File.expand_path(directory)
      end

      # @param name [String] within it
      # @param workspace [String] whose it is
      # @return [String]
      def path(name, workspace = Workspaces::FIRST)
        File.join(directory, *(["workspaces", workspace] unless workspace == Workspaces::FIRST), name)
      end

      # @return [Array<String>] names of the workspaces in it
      def workspaces = [Workspaces::FIRST, *manifest.fetch("workspaces", {}).keys]

      # @param workspace [String]
      # @return [Hash{String => Object}] what the manifest says of it: `tables`, `uploads` and `log`
      def facts(workspace) = workspace == Workspaces::FIRST ? manifest : manifest["workspaces"].fetch(workspace)

      # @return [Hash{String => Object}]
      # @raise [Error] where it is none, or one of another kind
      def manifest
        @manifest ||= JSON.parse(File.read(path(MANIFEST))).tap do |found|
          next if READ.include?(found["format"])

          raise Error, "#{directory} was written by an incompatible version"
        end
      rescue Errno::ENOENT, Errno::ENOTDIR, JSON::ParserError
        raise Error, "#{directory} is no backup, or one that was not finished"
      end

      # Whole or not at all: a directory without it is no backup.
      #
      # @param facts [Hash{String => Object}]
      # @return [void]
      def finish(facts)
        @manifest = { "format" => FORMAT, **facts, "files" => digests }
        File.write(path("#{MANIFEST}.part"), JSON.pretty_generate(@manifest))
        File.rename(path("#{MANIFEST}.part"), path(MANIFEST))
      end

      # @return [void]
      # @raise [Error] where files are missing or are not as they were
      def check
        was = manifest["files"]
        now = digests
        wrong = was.reject { |name, digest| now[name] == digest }.keys
        return if wrong.empty?

        raise Error, "#{wrong.first}#{" and #{wrong.size - 1} more" if wrong.size > 1} in #{directory} " \
                     "#{now.key?(wrong.first) ? "is not what was written" : "is missing"}"
      end

      private

      def digests
        names = Dir.glob("**/*", File::FNM_DOTMATCH, base: directory).select { |name| File.file?(path(name)) }
        (names - [MANIFEST, "#{MANIFEST}.part"]).sort.to_h { |name| [name, Digest::SHA256.file(path(name)).hexdigest] }
      end
    end
  end
end
