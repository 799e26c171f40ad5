# frozen_string_literal: true

require_relative "server_helper"

# A MariaDB elsewhere that lets its user in by TLS alone.
RSpec.describe EstrelServer::Database do
  let(:place) { File.join(ROOT, "var/elsewhere") }
  let(:port) { Addrinfo.tcp("127.0.0.1", 0).bind { |socket| socket.local_address.ip_port } }

  before do
    FileUtils.rm_rf(place)
    own = EstrelServer::Settings.from({ "ESTREL_VAR" => place })
    described_class.new(own).prepare
    %w[right wrong].each { |name| Certificate.new("localhost").write(File.join(place, "#{name}.pem"), File.join(place, "#{name}.key")) }
    File.write(File.join(place, "init.sql"), "CREATE DATABASE shared;\nCREATE USER 'remote'@'%' IDENTIFIED BY 'p@ss' REQUIRE SSL;\nGRANT ALL ON shared.* TO 'remote'@'%';\n")
    File.write(File.join(place, "pid"), Process.spawn("mariadbd", "--no-defaults", "--datadir=#{place}/database/data", "--user=#{Etc.getpwuid.name}", "--socket=#{place}/s", "--port=#{port}", "--bind-address=127.0.0.1",
                                                      "--init-file=#{place}/init.sql", "--ssl-cert=#{place}/right.pem", "--ssl-key=#{place}/right.key", out: "#{place}/log", err: %i[child out]))
    database("?tls=required").wait_until_reachable(seconds: 30)
  end

  after do
    pid = File.read(File.join(place, "pid")).to_i
    Process.kill("TERM", pid)
    Process.wait(pid)
    FileUtils.rm_rf(place)
  end

  def settings(query, host = "localhost") = EstrelServer::Settings.from({ "ESTREL_VAR" => place, "ESTREL_DATABASE_URL" => "mysql://remote:p%40ss@#{host}:#{port}/shared#{query}" })

  def database(query, host = "localhost") = described_class.new(settings(query, host))

  it "is spoken to by TLS where that is asked for, and believed where it is certified" do
    right = "?tls=verify&ca=#{place}/right.pem"
    cipher = database(right).client.query("SHOW SESSION STATUS LIKE 'Ssl_cipher'").to_a.flatten.last
    expect(cipher).to match(/AES|CHACHA/)
    expect(["", "?tls=verify", "?tls=verify&ca=#{place}/wrong.pem"].map { |query| database(query).reachable? }).to eq([false] * 3)
    expect([database(right, "127.0.0.1").reachable?, database("?tls=required", "127.0.0.1").reachable?]).to eq([false, true])
    read = ->(query) { EstrelServer::BackingUp::Programs.new(settings(query)).dump(&:read) }
    expect(read.call(right)).to include("SET NAMES utf8mb4")
    expect { read.call("?tls=verify&ca=#{place}/wrong.pem") }.to raise_error(EstrelServer::Error, /mariadb-dump failed/)
    expect { settings("?tls=maybe") }.to raise_error(EstrelServer::Settings::Invalid, /must be like/)
    expect { EstrelServer::Settings.from({ "ESTREL_DATABASE_URL" => "mysql://a:b c@host/x" }) }.to raise_error(EstrelServer::Settings::Invalid, /ESTREL_DATABASE_URL is invalid/)
  end
end
