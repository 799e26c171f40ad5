# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::AnswerBuffers do
  # What Puma does: the thread that has answered passes the connection on, another writes the next answer's head, and
  # then the first one empties the buffer.
  it "keep the head of an answer while another thread is done with the one before on the same connection" do
    described_class.apply
    io, other_end = IO.pipe
    client = Puma::Client.new(io)
    client.io_buffer << "HTTP/1.1 200 OK\r\n"
    Thread.new { client.io_buffer.reset }.join
    expect(client.io_buffer.read_and_reset).to eq("HTTP/1.1 200 OK\r\n")
    expect(client.io_buffer).to be_empty
  ensure
    [io, other_end].each(&:close)
  end
end
