# frozen_string_literal: true

require "net/http"

module Bench
  # Estrel's own processes beside the one that measures.
  class Processes
    ESTREL = File.expand_path("../bin/estrel", __dir__)

    # @param address [String]
    # @return [void]
    def self.wait_for(address)
      300.times do
        return if Net::HTTP.get_response(URI(address)).is_a?(Net::HTTPOK)

        sleep 0.1
      rescue SystemCallError
        sleep 0.1
      end
      raise "nothing answers at #{address}"
    end

    # @param directory [String] gets what they say
    def initialize(directory)
      @directory = directory
    end

    # Runs the block with `bin/estrel WORDS` beside it, and tells its peak memory.
    #
    # @param words [Array<String>]
    # @return [Object] the block's result
    def during(*words)
      log = File.join(@directory, "#{words.join("-")}.log")
      pid = Process.spawn(ESTREL, *words, out: log, err: %i[child out])
      result = yield
      peak = File.read("/proc/#{pid}/status")[/VmHWM:\s+(\d+)/, 1].to_i / 1024
      puts format("%<words>s: peak resident memory %<peak>d MB", words: words.join(" "), peak: peak)
      result
    ensure
      Process.kill("TERM", pid)
      Process.wait(pid)
    end
  end
end
