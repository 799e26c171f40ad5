# frozen_string_literal: true

require "socket"
require "standardwebhooks"

# A destination for specs: listens where the stand-in would, checks signatures with an implementation that is not ours,
# answers as it is told, and keeps what it took by key.
class Receiver
  Seen = Struct.new(:id, :body, :valid)

  attr_reader :seen, :taken
  attr_accessor :secret

  def initialize(port)
    @seen = []
    @taken = Hash.new(0)
    @answers = []
    @server = TCPServer.new("127.0.0.1", port)
    @thread = Thread.new { serve }
  end

  # Each answer is used once: a status with headers and body, or a block that is given the people and the connection.
  def answer(status = 200, headers = {}, body = "", &block) = @answers << (block || ->(*) { [status, headers, body] })

  # Forgets the answers that are left.
  def behave = @answers.clear

  def stop
    @thread.kill
    @server.close
  end

  private

  def serve
    loop { Thread.new(@server.accept) { |socket| converse(socket) } }
  end

  def converse(socket)
    while (line = socket.gets)
      headers = {}
      until (header = socket.gets.chomp).empty?
        name, value = header.split(": ", 2)
        headers[name.downcase] = value
      end
      if line.start_with?("POST")
        respond(socket, headers, socket.read(headers["content-length"].to_i).force_encoding("UTF-8"))
      end
    end
  rescue SystemCallError, IOError
    nil
  end

  def respond(socket, headers, body)
    @seen << Seen.new(headers["webhook-id"], body, valid?(headers, body))
    people = JSON.parse(body).dig("data", "people")
    status, more, text = @answers.shift&.call(people, socket)
    status ||= 200
    take(people, text) if status == 200 && (text.to_s.empty? || text.start_with?("{"))
    socket.write("HTTP/1.1 #{status} Whatever\r\ncontent-length: #{text.to_s.bytesize}\r\n#{more.to_h.map { |name, value| "#{name}: #{value}\r\n" }.join}\r\n#{text}")
  end

  def take(people, text)
    refused = text.to_s.start_with?("{") ? JSON.parse(text).fetch("refused", []).map { |row| row["key"] } : []
    people&.each { |person| @taken[person["key"]] += 1 unless refused.include?(person["key"]) }
  end

  def valid?(headers, body)
    StandardWebhooks::Webhook.new(@secret).verify(body, headers)
    true
  rescue StandardWebhooks::WebhookVerificationError
    false
  end
end
