# frozen_string_literal: true

module EstrelServer
  module Answers
    # Answers that have been given, as files that all web processes share, until the ledger changes. A question that is
    # being answered is not computed a second time: whoever else asks it waits, and is told how far it is.
    #
    # A lock of the operating system says that an answer is being computed; it is let go with the process that holds it.
    # In the file that is locked stands how far the answer is.
    class Kept
      # Files kept of one generation of the ledger; the oldest go first.
      MOST = 2_000
      # Seconds between looks whether an answer is there.
      PAUSE = 0.05

      # @param directory [String]
      # @param generation [String] name of the ledger's manifest
      def initialize(directory, generation)
        @root = directory
        @directory = File.join(directory, generation.delete_suffix(".json"))
      end

      # @param key [Object] plain data that names the question and all it rests on
      # @param waiting [#call] asked again and again while another computes the answer; raises to give up
      # @param progress [#call] told how far the answer is, as an Array of plain data
      # @yield [progress] computes the answer, telling progress meanwhile
      # @yieldreturn [String] the answer
      # @return [String] the answer
      def fetch(key, waiting:, progress:)
        make_directory
        path = path(key)
        stored(path) || alone("#{path}.lock", waiting, progress) do |lock|
          # Another has answered it meanwhile, maybe.
          stored(path) || yield(noted(lock, progress)).tap { |answer| write(path, answer) }
        end
      end

      # @param key [Object] see {#fetch}
      # @return [String, nil] the answer, where it has been given
      def read(key) = stored(path(key))

      private

      def path(key) = File.join(@directory, Digest::SHA256.hexdigest(key.inspect))

      def stored(path)
        File.read(path).tap { File.utime(nil, nil, path) }
      rescue Errno::ENOENT
        nil
      end

      # An answer that cannot be stored is an answer all the same.
      def write(path, answer)
        draft = "#{path}.#{Process.pid}.#{Thread.current.object_id}"
        File.write(draft, answer)
        File.rename(draft, path)
        drop_oldest
      rescue Errno::ENOSPC
        FileUtils.rm_f(draft)
      end

      def alone(path, waiting, progress)
        File.open(path, File::RDWR | File::CREAT) do |lock|
          until lock.flock(File::LOCK_EX | File::LOCK_NB)
            waiting.call
            told(lock)&.then { |far| progress.call(far) }
            sleep PAUSE
          end
          yield lock
        end
      end

      # Writes down how far an answer is, for those who wait.
      def noted(lock, progress)
        lambda do |far|
          lock.rewind
          lock.truncate(0)
          lock.write(JSON.generate(far))
          lock.flush
          progress.call(far)
        end
      end

      def told(lock)
        lock.rewind
        JSON.parse(lock.read)
      rescue JSON::ParserError
        nil # it is being written
      end

      # The first answer of a generation takes the place of those of the one before.
      def make_directory
        return if File.directory?(@directory)

        FileUtils.mkdir_p(@directory)
        others = Dir.children(@root).map { |name| File.join(@root, name) } - [@directory]
        # The one before may still be asked by whoever began with it.
        FileUtils.rm_rf(others.sort_by { |path| File.mtime(path) }[..-2])
      rescue Errno::ENOENT
        nil # another process has removed one meanwhile
      end

      def drop_oldest
        files = Dir.children(@directory).map { |name| File.join(@directory, name) }
        return if files.size <= 2 * MOST

        oldest = files.sort_by { |path| File.mtime(path) }.first(files.size - MOST)
        oldest.each { |path| File.unlink(path) unless path.end_with?(".lock") }
      rescue Errno::ENOENT
        nil # another process has removed one meanwhile
      end
    end
  end
end
