# frozen_string_literal: true

require_relative "server_helper"

# Heavy questions are answered by processes that can be killed.
RSpec.describe EstrelServer::Answers::ForwardedQuestion do
  include ApiHelper

  let(:settings) { EstrelServer.settings }
  let(:question) { { series: [{ event: "ride_ended" }] } }
  let(:pids) { [] }

  let!(:session) { "estrel_session=#{sign_in && EstrelServer::AccountSession.open(account)}" }

  after do
    pids.each { |pid| Process.kill("TERM", pid) && Process.wait(pid) }
    FileUtils.rm_f(settings.questions_socket)
  end

  # The processes as the process manager runs them.
  def start(**environment)
    environment = { "ESTREL_QUESTION_PROCESSES" => "1", **environment.transform_keys(&:to_s) }
    pids << Process.spawn(environment, File.join(ROOT, "bin/estrel"), "questions", out: File::NULL, err: File::NULL)
    sleep 0.1 until (socket = described_class.connect(settings))
    socket.close
  end

  # What a process would do, in a thread of this one.
  def pretend
    server = UNIXServer.new(settings.questions_socket)
    Thread.new do # which keeps the server open
      socket = server.accept
      socket.readpartial(65_536)
      yield socket
      socket.close
    end
  end

  # @return [Array(Integer, String)] status and text
  def ask(path = "/analyses/trends", **headers)
    _, _, body = response = app.call(env(path, **headers))
    text = +""
    body.each { |part| text << part }
    body.close if body.respond_to?(:close)
    [response.first, text]
  end

  def env(path, **headers)
    Rack::MockRequest.env_for("/api#{path}", method: "POST", input: JSON.generate(question), "CONTENT_TYPE" => "application/json", "HTTP_HOST" => "127.0.0.1:4270",
                                             "HTTP_COOKIE" => session, "REMOTE_ADDR" => "127.0.0.1", **headers.transform_keys(&:to_s))
  end

  def ended_turns = Array.new(2) { |number| File.open(File.join(settings.var, "turns", "#{account.id}-#{number + 1}"), File::RDWR | File::CREAT) }.each { |file| expect(file.flock(File::LOCK_EX | File::LOCK_NB)).to eq(0) }.each(&:close)

  it "gives the same answers, streams and refusals as the web process itself" do
    fill
    asked = [{}, { HTTP_ACCEPT: "text/event-stream" }]
    here = asked.map { |headers| ask(**headers) } << ask("/analyses/trends?x=1")
    FileUtils.rm_rf(settings.answers_directory)
    start
    allow(EstrelServer::Answers::Kept).to receive(:new)
    there = asked.map { |headers| ask(**headers) } << ask("/analyses/trends?x=1")
    expect(there).to eq(here)
    expect(EstrelServer::Answers::Kept).not_to have_received(:new)
    expect(there.map(&:first)).to eq([200, 200, 422])
  end

  it "refuses a question whose process was killed, and says so in a stream that has begun" do
    pretend { nil }
    expect(ask).to match([503, /the process that answered this question ended; ask again/i])
    FileUtils.rm_f(settings.questions_socket)
    pretend { |socket| socket.write("HTTP/1.1 200 OK\r\ncontent-type: text/event-stream\r\ntransfer-encoding: chunked\r\n\r\n3\r\n:x\n\r\n") }
    status, text = ask
    expect([status, text]).to match([200, /\A:x\nevent: problem\ndata: {.*"status":503/])
    ended_turns
  end

  it "tells the process once the asker has gone, and keeps the turn until the process has stopped" do
    here, there = UNIXSocket.pair
    came, gone, stop = Array.new(3) { Queue.new }
    pretend do |socket|
      came << true
      socket.read
      gone << true
      stop.pop
    end
    asked = Thread.new { ask("puma.socket": here) }
    Timeout.timeout(20) { came.pop }
    there.close
    expect(Timeout.timeout(20) { gone.pop }).to be(true)
    expect { ended_turns }.to raise_error(RSpec::Expectations::ExpectationNotMetError)
    stop << true
    asked.value
    ended_turns
  end

  it "answers light requests while every process is at a question, and goes on with what waits", :aggregate_failures do
    fill
    start
    worker = Integer(File.read("/proc/#{pids.first}/task/#{pids.first}/children").split.first)
    Process.kill("STOP", worker)
    asked = Array.new(2) { Thread.new { ask.first } }
    sleep 0.01 until asked.all?(&:stop?)
    expect(call(:get, "/workspace")).to include("ready" => true)
    Process.kill("KILL", worker)
    expect(asked.map(&:value)).to all(satisfy { |status| [200, 503].include?(status) })
    expect(ask.first).to eq(200)
  end

  # Something in C that holds Ruby's lock, as Polars does.
  it "ends a process that computes beyond the limit, though it holds Ruby's lock" do
    code = <<~RUBY
      require "./server/lib/estrel_server"
      require "fiddle"
      held = Fiddle::Function.new(Fiddle::Handle::DEFAULT["sleep"], [Fiddle::TYPE_INT], Fiddle::TYPE_INT, need_gvl: true)
      EstrelServer::Deadline.within(1) { held.call(60) }
    RUBY
    pid = Process.spawn("bundle", "exec", "ruby", "-e", code, chdir: ROOT)
    expect(Process.wait2(pid).last.termsig).to eq(Signal.list.fetch("ALRM"))
    expect(EstrelServer::Deadline.within(60) { 1 }).to eq(1)
  end
end
