# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Stores the messages of many requests in one transaction: whatever has come in while the transaction before was
    # being written goes into the next one. So waiting for the disk is shared, and a request is answered only when what
    # it brought is durable.
    class Batcher
      MAX_MESSAGES = 2_000

      # Raised in the waiting request when its messages could not be stored; nothing of it is, and it may be sent again.
      class Unavailable < Error; end

      Request = Struct.new(:source, :messages, :answer)

      # @param store [Store]
      def initialize(store = Store.new)
        @store = store
        @queue = Queue.new
        @mutex = Mutex.new
      end

      # Waits until all messages are stored or refused.
      #
      # @param source [Directory::Source]
      # @param messages [Array<Message>]
      # @return [void]
      # @raise [Unavailable]
      def store(source, messages)
        start
        answer = Queue.new
        @queue << Request.new(source, messages, answer)
        fault = answer.pop
        raise Unavailable, "storage is not responding; nothing was stored, send the request again" if fault
      end

      private

      def start
        @mutex.synchronize { @thread = Workspaces.thread { work } unless @thread&.alive? }
      end

      def work
        loop do
          carry_out(next_requests)
          # None is held while nothing comes, or as many workspaces as there are would hold one each.
          Record.connection_pool.release_connection
        end
      end

      def next_requests
        requests = [@queue.pop]
        size = requests.first.messages.size
        until @queue.empty? || size >= MAX_MESSAGES
          requests << @queue.pop
          size += requests.last.messages.size
        end
        requests
      end

      # One request's fault is not another's: where a shared transaction fails, each is tried alone.
      def carry_out(requests)
        @store.store(requests)
        requests.each { |request| request.answer << nil }
      rescue StandardError => e
        return requests.each { |request| carry_out([request]) } if requests.size > 1

        Log.error("events could not be stored", e)
        requests.first.answer << e
      end
    end
  end
end
