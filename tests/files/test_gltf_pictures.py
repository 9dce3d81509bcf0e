"""Pictures inside of a mesh: found with the material that reads them, once for each, and nothing else of the document."""

import json

import pytest

from copper_sieve.core.errors import MeshInvalid
from copper_sieve.files.meshes import gltf_pictures, mesh_from
from shapes import gltf_with_pictures, torus

ONE, TWO = b"\x89PNG one", b"\x89PNG two"
RING = torus(8, 6)


def found(images, materials, **more):
    content = gltf_with_pictures(RING, images, materials, **more)
    return [(one.name, one.material, one.slots, one.is_cut, one.content) for one in gltf_pictures(content)]


def test_each_material_has_its_pictures_with_the_slots_that_read_them():
    materials = [
        {
            "name": "Messing, poliert",
            "pbrMetallicRoughness": {"baseColorTexture": {"index": 0}, "metallicRoughnessTexture": {"index": 1}},
            "occlusionTexture": {"index": 1, "strength": 0.5},
            "alphaMode": "MASK",
        },
        {"extensions": {"KHR_materials_pbrSpecularGlossiness": {"diffuseTexture": {"index": 0}}}},
    ]
    own = {"name": "shared", "png": ONE}
    assert found([own, {"name": "arm.png", "png": TWO}], materials) == [
        ("Messing, poliert_baseColor.png", "Messing, poliert", ("baseColorTexture",), True, ONE),
        ("arm.png", "Messing, poliert", ("metallicRoughnessTexture", "occlusionTexture"), True, TWO),
        ("material 2_diffuse.png", "material 2", ("diffuseTexture",), False, ONE),
    ]


def test_pictures_of_no_name_or_of_one_name_are_called_by_what_they_are_for():
    materials = [{"name": "felt", "normalTexture": {"index": 0}, "emissiveTexture": {"index": 1}}]
    for names in ({}, {"name": "image"}):
        rows = found([{**names, "png": ONE}, {**names, "png": TWO}], materials)
        assert [row[0] for row in rows] == ["felt_normal.png", "felt_emissive.png"]


def test_what_is_not_there_has_no_bytes_and_what_lies_beside_comes_by_itself():
    textures = [{"source": 0}, {"source": 9}, {}, "no texture", {"source": 1}]
    slots = ("normalTexture", "occlusionTexture", "emissiveTexture", "clearcoatTexture", "otherTexture", "lostTexture")
    material = {"name": "felt", **{slot: {"index": k} for k, slot in enumerate(slots)}}
    content = json.loads(gltf_with_pictures(RING, [{"png": ONE}, {"png": TWO}], [material], textures=textures))
    content["images"] = [{"bufferView": 99, "mimeType": "image/jpeg"}, {"uri": "felt_height.png"}]
    (row,) = gltf_pictures(json.dumps(content).encode())
    assert (row.name, row.content) == ("felt_normal.jpg", b"")


def test_a_document_that_holds_something_else_than_it_should_has_no_pictures_there():
    """Its mesh may be whole all the same, and is read."""
    odd = ["no material", {"extensions": [], "pbrMetallicRoughness": 7, "normalTexture": "none"}, None]
    content = gltf_with_pictures(RING, [{"png": ONE}], odd, textures=[{"source": 0, "extensions": {"EXT_texture_webp": 3}}])
    assert gltf_pictures(content) == []
    read = mesh_from(content, "ring.gltf")
    assert len(read.shape.triangles) == len(RING.triangles) and read.pictures == 0


@pytest.mark.parametrize("content", [b"", b"\x89PNG", b"{}", b"glTF\x02\0\0\0"])
def test_what_is_no_document_is_told(content):
    with pytest.raises(MeshInvalid):
        gltf_pictures(content)
