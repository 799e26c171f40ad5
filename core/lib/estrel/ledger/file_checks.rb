# frozen_string_literal: true

require "zlib"

module Estrel
  class Ledger
    # Finds out whether files are as they were written, by size and CRC-32: against damage, not against anybody's
    # intent. Each file is read through once per process: files never change under their names.
    class FileChecks
      CHUNK = 1 << 20

      # @param path [String]
      # @return [Array(Integer, Integer)] size and checksum
      def self.of(path)
        checksum = 0
        File.open(path, "rb") do |file|
          buffer = String.new(capacity: CHUNK)
          checksum = Zlib.crc32(buffer, checksum) while file.read(CHUNK, buffer)
          [file.size, checksum]
        end
      end

      # @param directory [String]
      def initialize(directory)
        @directory = directory
        @whole = Set.new
      end

      # @param written [Hash{String => Array(Integer, Integer)}] file name to size and checksum
      # @return [void]
      # @raise [Damaged] naming the first file that is not as it was written
      def check(written)
        written.each do |name, (size, checksum)|
          path = File.join(@directory, name)
          raise Damaged, "#{name} is missing" unless File.file?(path)
          raise Damaged, "#{name} has #{File.size(path)} bytes instead of #{size}" unless File.size(path) == size
          next if @whole.include?(name)
          raise Damaged, "#{name} has other contents than were written" unless self.class.of(path).last == checksum

          @whole << name
        end
        @whole &= written.keys
      end

      # @param written [Hash{String => Array(Integer, Integer)}]
      # @return [Boolean] whether all files are there and as long as they were written
      def sizes?(written) = written.all? { |name, (size, _)| File.size?(File.join(@directory, name)).to_i == size }

      # Reads everything through again next time.
      #
      # @return [void]
      def forget = @whole.clear
    end
  end
end
