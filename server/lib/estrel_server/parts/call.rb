# frozen_string_literal: true

module EstrelServer
  module Parts
    # One question to all parts, of which each goes to one of those who hold it. Where that one is late for a question
    # of its kind, or has not even taken it, another is asked as well, and whoever answers first counts. Where there is
    # no other, it is waited for a while longer, and then the part is given up.
    class Call
      # Seconds between looks whether the answer is still wanted.
      PAUSE = 0.05
      # Seconds within which a question is taken by whoever gets it.
      TAKEN = 1.0
      # So many times as long as is usual it is waited where nobody else can be asked; seconds at least.
      PATIENCE = 4
      LEAST_PATIENCE = 5.0
      private_constant :PAUSE, :TAKEN, :PATIENCE, :LEAST_PATIENCE

      # A part that is waited for: since when somebody is at it, by whom it was taken, who was asked by name, and what
      # has come of each one's answer.
      Part = Struct.new(:since, :asked, :taken, :pieces)
      private_constant :Part

      # @param elsewhere [Elsewhere]
      # @param client [NATS::IO::Client]
      # @param task [String]
      # @param kind [Object]
      def initialize(elsewhere, client, task, kind)
        @elsewhere = elsewhere
        @network = elsewhere.network
        @client = client
        @task = task
        @kind = kind
        @id = SecureRandom.alphanumeric(22)
        @mailbox = Mailbox.new
        @inbox = client.new_inbox
        @heard = {}
        @found = {}
      end

      # See {Elsewhere#ask}.
      def run(places)
        @places = places
        subscription = @client.subscribe("#{@inbox}.*") { |message| @mailbox.put(message) }
        begin_all
        until @waiting.empty?
          yield(@found.size)
          @mailbox.take(PAUSE).each { |message| received(message) }
          @waiting.each { |index, part| look_after(index, part) }
        end
        @found
      ensure
        Network.quietly { subscription&.unsubscribe }
        withdraw if @again || @waiting&.any?
      end

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      def begin_all
        @waiting = @places.each_index.to_h { |index| [index, Part.new(now, [], [], {})] }
        @waiting.each_key { |index| put(index, @network.subject("part", @elsewhere.held_as(@places[index]))) }
      end

      def put(index, subject)
        sealed = @network.seal.close("ask", Estrel::Transit.dump([@id, index, @task]))
        @client.publish(subject, sealed, "#{@inbox}.#{index}")
      end

      def received(message)
        index = message.subject.delete_prefix("#{@inbox}.").to_i
        part = @waiting[index] or return
        return nobody(index, part) if Network.nobody?(message)

        holder, at, count, bytes = Pieces.read(message.data)
        return if holder.nil?

        count.zero? ? taken(index, part, holder, bytes) : piece(index, part, holder, [at, count, bytes])
      end

      # Nobody holds it; or whoever was asked by name has gone.
      def nobody(index, part)
        return unless part.taken.empty?

        (part.asked.any? && another?(index, part)) || give_up(index)
      end

      def taken(index, part, holder, bytes)
        return unless @network.seal.open("taken #{@id} #{index}", bytes)

        part.taken |= [holder]
        part.since = now
      end

      def piece(index, part, holder, (at, count, bytes))
        pieces = part.pieces[holder] ||= {}
        pieces[at] = bytes
        return if pieces.size < count

        sealed = (1..count).map { |one| pieces[one].to_s }.join
        part.pieces.delete(holder)
        seconds = now - begun(part)
        @heard[holder] = now
        answered(index, part, @network.seal.open("answer #{@id} #{index}", sealed), seconds)
      end

      def answered(index, part, bytes, seconds)
        kind, answer = bytes && Estrel::Transit.load(bytes)
        raise answer if kind == :raised
        return another?(index, part) || give_up(index) unless kind == :found

        @elsewhere.paces.note(@kind, seconds)
        @waiting.delete(index)
        @found[index] = answer
      end

      # A holder answers one part after the other.
      def begun(part) = [part.since, *@heard.values_at(*part.taken).compact].max

      def look_after(index, part)
        quiet = now - begun(part)
        return if quiet < (part.taken.empty? ? TAKEN : @elsewhere.paces.limit(@kind))
        return if another?(index, part)

        give_up(index) if quiet > [PATIENCE * @elsewhere.paces.limit(@kind), LEAST_PATIENCE].max
      end

      # @return [Boolean] whether there is somebody else, who is asked now
      def another?(index, part)
        other = (@elsewhere.holders(index, @places[index]) - part.taken - part.asked).first or return false
        @again = true
        part.asked << other
        part.since = now
        put(index, @network.subject("holder", other))
        true
      end

      def give_up(index) = @waiting.delete(index)

      def withdraw
        Network.quietly { @client.publish(@network.subject("withdrawn"), @network.seal.close("withdraw", @id)) }
      end
    end
  end
end
