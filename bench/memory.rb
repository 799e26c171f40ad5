# frozen_string_literal: true

module Bench
  # The memory of this process.
  module Memory
    module_function

    # @return [Integer] the most that was resident at once, MB, memory-mapped files included
    def peak = File.read("/proc/self/status")[/VmHWM:\s+(\d+)/, 1].to_i / 1024

    # @param process [Integer, String]
    # @return [Integer] the part of it now that is the process's own, not pages of mapped files, MB
    def own(process = "self") = File.read("/proc/#{process}/status")[/RssAnon:\s+(\d+)/, 1].to_i / 1024

    # @return [Integer] that of the processes it has started, MB, without the database
    def of_children
      children = File.read("/proc/self/task/#{Process.pid}/children").split
      children.reject { |pid| File.read("/proc/#{pid}/comm").start_with?("mariadb") }.sum { |pid| own(pid) }
    rescue SystemCallError
      0 # one has ended meanwhile
    end
  end
end
