# frozen_string_literal: true

require_relative "certificate"

# nginx as docs/examples/nginx.conf has it, on free ports of loopback, with a certificate made for the occasion.
class TlsFront
  NAMES = %w[estrel.example collect.estrel.example].freeze

  attr_reader :port, :plain_port, :certificate

  def initialize(directory, web_port, collector_port)
    @directory = directory
    FileUtils.mkdir_p(directory)
    @port, @plain_port = Array.new(2) { Addrinfo.tcp("127.0.0.1", 0).bind { |socket| socket.local_address.ip_port } }
    made = Certificate.new(*NAMES)
    made.write(path("estrel.crt"), path("estrel.key"))
    @certificate = made.itself
    example = File.read(File.join(ROOT, "docs/examples/nginx.conf"))
    changes = { "/run/estrel-nginx.pid" => path("pid"), "/var/log/estrel-nginx.log" => path("log"), "/etc/ssl/" => path(""), "listen 443" => "listen 127.0.0.1:#{port}",
                "listen 80" => "listen 127.0.0.1:#{plain_port}", ":4270" => ":#{web_port}", ":4271" => ":#{collector_port}" }
    File.write(path("nginx.conf"), changes.reduce(example) { |text, (from, to)| text.gsub(from, to) })
  end

  def start
    @pid = Process.spawn("nginx", "-p", @directory, "-c", path("nginx.conf"), "-g", "daemon off; user root;", out: path("out"), err: %i[child out])
    50.times do
      return TCPSocket.new("127.0.0.1", port).close
    rescue SystemCallError
      sleep 0.1
    end
    raise "nginx did not come up: #{File.read(path("out"))}"
  end

  def stop
    Process.kill("TERM", @pid)
    Process.wait(@pid)
  end

  # A request as a browser or a sender makes it: by name, checking the certificate.
  def request(verb, address, body = nil, host: NAMES.first, **headers, &block)
    http = Net::HTTP.new(host, port)
    http.ipaddr = "127.0.0.1"
    http.use_ssl = true
    http.cert_store = OpenSSL::X509::Store.new.tap { |store| store.add_cert(certificate) }
    made = Net::HTTP.const_get(verb.to_s.capitalize).new(address, headers.transform_keys { |name| name.to_s.tr("_", "-") })
    made.body = body
    http.start { |open| block_given? ? open.request(made, &block) : open.request(made) }
  end

  private

  def path(name) = File.join(@directory, name)
end
