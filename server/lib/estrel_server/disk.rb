# frozen_string_literal: true

require "open3"

module EstrelServer
  # Room on the disk. What writes much looks before it begins and while it writes, and stops with a clear word while
  # there is still some left, rather than half-way through a file.
  module Disk
    # Room below which nothing large is begun or gone on with, bytes.
    RESERVE = 500 << 20

    # Raised where there is no room left.
    class Full < Error; end

    module_function

    # @param path [String] of something on the disk
    # @return [Integer] bytes that are free
    def free(path)
      said, = Open3.capture2("df", "-Pk", path)
      said.lines.last.split[3].to_i * 1024
    end

    # @param path [String]
    # @param needed [Integer] bytes that are going to be written at least
    # @return [void]
    # @raise [Full]
    def check(path, needed = 0)
      left = free(path) - needed
      return if left >= RESERVE

      missing = ((RESERVE - left) / 1_000_000.0).ceil
      raise Full, "the disk is nearly full; free #{Estrel::English.number(missing)} MB and try again"
    end
  end
end
