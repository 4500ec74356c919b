#!/usr/bin/env python3
"""A small stand-in for a web feature service: OGC API Features at /, and a WFS 2.0 at /wfs. Serves one layer of invented roads, on the loopback only.

Prints its port and serves until its standard input ends.
"""
import json
import sys
import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from urllib.parse import parse_qs, urlparse

ROADS = [("r1", "Kelp Row", "residential", [(-9.51, 46.20), (-9.50, 46.20)]), ("r2", "North Road", "primary", [(-9.50, 46.20), (-9.50, 46.21)])]


def features():
    return [{"type": "Feature", "id": i, "properties": {"name": n, "class": c}, "geometry": {"type": "LineString", "coordinates": [list(p) for p in line]}} for i, n, c, line in ROADS]


def wfs(query, base):
    request = query.get("REQUEST", query.get("request", [""]))[0].lower()
    if request == "getcapabilities":
        op = "".join(f'<ows:Operation name="{o}"><ows:DCP><ows:HTTP><ows:Get xlink:href="{base}/wfs"/></ows:HTTP></ows:DCP></ows:Operation>' for o in ("GetCapabilities", "DescribeFeatureType", "GetFeature"))
        return f"""<?xml version="1.0"?><wfs:WFS_Capabilities version="2.0.0" xmlns:wfs="http://www.opengis.net/wfs/2.0" xmlns:ows="http://www.opengis.net/ows/1.1" xmlns:xlink="http://www.w3.org/1999/xlink" xmlns:t="http://otoro.example/town">
<ows:ServiceIdentification><ows:Title>town</ows:Title><ows:ServiceType>WFS</ows:ServiceType><ows:ServiceTypeVersion>2.0.0</ows:ServiceTypeVersion></ows:ServiceIdentification>
<ows:OperationsMetadata>{op}</ows:OperationsMetadata>
<wfs:FeatureTypeList><wfs:FeatureType><wfs:Name>t:roads</wfs:Name><wfs:Title>roads</wfs:Title><wfs:DefaultCRS>urn:ogc:def:crs:EPSG::4326</wfs:DefaultCRS></wfs:FeatureType></wfs:FeatureTypeList>
</wfs:WFS_Capabilities>"""
    if request == "describefeaturetype":
        return """<?xml version="1.0"?><xsd:schema xmlns:xsd="http://www.w3.org/2001/XMLSchema" xmlns:gml="http://www.opengis.net/gml/3.2" xmlns:t="http://otoro.example/town" targetNamespace="http://otoro.example/town" elementFormDefault="qualified">
<xsd:import namespace="http://www.opengis.net/gml/3.2"/>
<xsd:element name="roads" type="t:roadsType" substitutionGroup="gml:AbstractFeature"/>
<xsd:complexType name="roadsType"><xsd:complexContent><xsd:extension base="gml:AbstractFeatureType"><xsd:sequence>
<xsd:element name="geom" type="gml:CurvePropertyType" minOccurs="0"/><xsd:element name="name" type="xsd:string" minOccurs="0"/><xsd:element name="class" type="xsd:string" minOccurs="0"/>
</xsd:sequence></xsd:extension></xsd:complexContent></xsd:complexType></xsd:schema>"""
    members = "".join(
        f'<wfs:member><t:roads gml:id="roads.{i}"><t:geom><gml:LineString gml:id="g{i}" srsName="urn:ogc:def:crs:EPSG::4326"><gml:posList>{" ".join(f"{y} {x}" for x, y in line)}</gml:posList></gml:LineString></t:geom>'
        f"<t:name>{n}</t:name><t:class>{c}</t:class></t:roads></wfs:member>"
        for i, n, c, line in ROADS
    )
    hits = query.get("RESULTTYPE", query.get("resultType", [""]))[0].lower() == "hits"
    return f"""<?xml version="1.0"?><wfs:FeatureCollection xmlns:wfs="http://www.opengis.net/wfs/2.0" xmlns:gml="http://www.opengis.net/gml/3.2" xmlns:t="http://otoro.example/town" numberMatched="{len(ROADS)}" numberReturned="{0 if hits else len(ROADS)}" timeStamp="2026-01-01T00:00:00Z">{"" if hits else members}</wfs:FeatureCollection>"""


class Service(BaseHTTPRequestHandler):
    def log_message(self, *_):
        pass

    def send(self, body, kind):
        data = body.encode()
        self.send_response(200)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(data)))
        self.end_headers()
        self.wfile.write(data)

    def do_GET(self):
        url = urlparse(self.path)
        query = parse_qs(url.query)
        base = f"http://127.0.0.1:{self.server.server_port}"
        link = lambda rel, path, kind="application/json": {"rel": rel, "type": kind, "href": base + path}
        collection = {"id": "roads", "title": "roads", "extent": {"spatial": {"bbox": [[-9.52, 46.1, -9.4, 46.3]]}}, "links": [link("items", "/collections/roads/items", "application/geo+json")]}
        path = url.path.rstrip("/")
        if path == "/wfs":
            return self.send(wfs(query, base), "text/xml")
        if path == "/collections/roads/items":
            return self.send(json.dumps({"type": "FeatureCollection", "features": features(), "links": []}), "application/geo+json")
        if path == "/collections/roads":
            return self.send(json.dumps(collection), "application/json")
        if path == "/collections":
            return self.send(json.dumps({"collections": [collection], "links": [link("self", "/collections")]}), "application/json")
        if path == "/conformance":
            return self.send(json.dumps({"conformsTo": ["http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/core"]}), "application/json")
        if path == "":
            return self.send(json.dumps({"title": "town", "links": [link("data", "/collections"), link("conformance", "/conformance")]}), "application/json")
        self.send_error(404)


server = ThreadingHTTPServer(("127.0.0.1", 0), Service)
print(server.server_port, flush=True)
threading.Thread(target=server.serve_forever, daemon=True).start()
sys.stdin.read()
