# frozen_string_literal: true

module Bench
  # An Estrel for one measurement: an empty database of its own and a port for what runs beside the one that measures.
  class Installation
    # @return [String] where the process beside answers
    attr_reader :address

    # @param directory [String] where it lives; removed first, unless what is there is to be used again
    # @param port [String] the setting that tells the process beside its port
    # @param settings [Hash{String => String}] of the environment
    # @param again [Boolean]
    def initialize(directory, port = "ESTREL_COLLECTOR_PORT", again: false, **settings)
      @directory = directory
      free = Addrinfo.tcp("127.0.0.1", 0).bind { |socket| socket.local_address.ip_port }
      @address = "http://127.0.0.1:#{free}"
      ENV.update("ESTREL_VAR" => directory, "ESTREL_DEMO" => "off", port => free.to_s, **settings)
      FileUtils.rm_rf(directory) unless again
      FileUtils.mkdir_p(directory)
    end

    # Runs the block with the database up and its tables made.
    #
    # @return [Object] the block's result
    def during
      EstrelServer::Database.new(EstrelServer.settings).during do
        EstrelServer::Database::Store.connect
        EstrelServer::Database::Store.migrate
        yield
      end
    end

    # Runs the block with `bin/estrel WORD` beside it, once it answers.
    #
    # @return [Object] the block's result
    def beside(word)
      Processes.new(@directory).during(word) do
        Processes.wait_for("#{@address}/health")
        yield
      end
    end
  end
end
