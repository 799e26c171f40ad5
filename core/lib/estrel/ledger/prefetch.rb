# frozen_string_literal: true

module Estrel
  class Ledger
    # Has the system read the files of a generation into memory before the first question, as after a start of the
    # machine: those first that nearly every question reads, then the others, small ones before large ones, as far as
    # they fit into half of the memory that is available.
    class Prefetch
      FIRST = %w[profiles spine reach attribute_history].freeze

      # @return [Integer] bytes that the system could give without taking them from anybody; 0 where it does not say
      def self.available
        kilobytes = File.read("/proc/meminfo")[/^MemAvailable: {1,20}(\d{1,20}) kB/, 1]
        kilobytes.to_i * 1024
      rescue SystemCallError
        0
      end

      # @param directory [String] of the ledger
      # @param written [Hash{String => Array(Integer, Integer)}] see {Generation#written}
      # @param available [Integer] bytes
      def initialize(directory, written, available = Prefetch.available)
        @directory = directory
        @sizes = written.transform_values(&:first)
        @available = available
      end

      # @return [Array<String>] the names of the files that fit, in the order in which they are read
      def files
        left = @available / 2
        @sizes.sort_by { |name, size| [FIRST.index(name[/\A[a-z_]+/]) || FIRST.size, size] }
              .take_while { |_, size| (left -= size) >= 0 }.map(&:first)
      end

      # Returns when all has been asked for; other threads go on meanwhile.
      #
      # @return [void]
      def run
        files.each { |name| File.open(File.join(@directory, name)) { |file| file.advise(:willneed) } }
      rescue SystemCallError
        nil # it has been replaced meanwhile
      end
    end
  end
end
