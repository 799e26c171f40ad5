# frozen_string_literal: true

module Bench
  # The memory of this process.
  module Memory
    module_function

    # @return [Integer] the most that was resident at once, MB, memory-mapped files included
    def peak = File.read("/proc/self/status")[/VmHWM:\s+(\d+)/, 1].to_i / 1024

    # @return [Integer] the part of it now that is the process's own, not pages of mapped files, MB
    def own = File.read("/proc/self/status")[/RssAnon:\s+(\d+)/, 1].to_i / 1024
  end
end
