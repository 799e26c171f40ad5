# frozen_string_literal: true

module FerrowickPost
  # Makes up what becomes of messages, and tells the collector when its time has come. Whatever the collector did not
  # take is told again; events have ids of their own, so nothing counts twice.
  class Returner
    BATCH = 500
    PAUSE = 0.3
    # So that whoever tells of people gets their turn.
    REST = 0.03
    COLUMNS = %i[message_id kind occurs_at due_at].freeze

    # Works on a thread of its own until the process ends.
    #
    # @return [Thread]
    def self.start
      Thread.new do
        loop do
          Turn.wait
          sleep(new.step.zero? ? PAUSE : REST)
        rescue ActiveRecord::ActiveRecordError, Trilogy::Error => e
          warn "the returner waits: #{e.class}: #{e.message}"
          sleep(1)
        end
      end
    end

    # @return [Integer] how much there was to do
    def step
      Record.connection_pool.with_connection do
        @settings = ServiceSetting.current
        decide + tell
      end
    end

    private

    def decide
      messages = Message.where(fated: false).limit(BATCH).to_a
      rows = messages.flat_map { |message| rows_of(message) }
      Record.transaction do
        Happening.add(COLUMNS, rows)
        Message.where(id: messages.map(&:id)).update_all(fated: true)
      end
      messages.size
    end

    # Time passes faster here than outside, but nothing happens in the future.
    def rows_of(message)
      Fate.new(@settings.seed, message).happenings.map do |kind, seconds|
        occurs_at = message.sent_at + seconds
        due_at = [message.taken_at + (seconds * @settings.day_seconds / 86_400), occurs_at].max
        [message.id, kind, occurs_at, due_at]
      end
    end

    def tell
      return 0 if @settings.collector.empty? || @settings.sending_key.empty?

      due = Happening.due.includes(:message).order(:due_at).limit(BATCH).to_a
      events = due.flat_map(&:to_events)
      events.shuffle! if @settings.shuffled
      complaint = events.empty? ? nil : told(events)
      @settings.update_columns(complaint: complaint) unless @settings.complaint == complaint
      return 0 if complaint

      Happening.where(id: due.map(&:id)).update_all(told: true)
      due.size
    end

    # @return [String, nil] what went wrong
    def told(events)
      (@settings.twice ? 2 : 1).times do
        answer = Net::HTTP.post(URI(@settings.collector), JSON.generate(events),
                                "content-type" => "application/cloudevents-batch+json",
                                "authorization" => "Bearer #{@settings.sending_key}")
        next if answer.is_a?(Net::HTTPOK)

        return "the collector answered #{answer.code}: #{answer.body.to_s[0, 200]}"
      end
      nil
    rescue SystemCallError, IOError, Timeout::Error => e
      "the collector cannot be reached: #{e.message}"
    end
  end
end
